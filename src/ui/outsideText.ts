import type { OutsideChange } from '../answers/changes.ts';
import { fieldOf, valueText } from '../core/changes/fields.ts';

/** A value that was changed at the marketplace, as people read it. */
export const outsideText = ({ entity, field }: OutsideChange, value: string): string =>
  valueText(fieldOf(entity, field), value) || 'none';
