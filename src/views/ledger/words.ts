import { fieldOf, valueText } from '../../core/changes/fields.ts';
import type { SheetLine } from '../../answers/changes.ts';

const negativeNames: Record<string, string> = {
  negative_exact: 'Negative exact',
  negative_phrase: 'Negative phrase',
  negative_item: 'Negative item',
};

/** What a line changes: "New exact keyword", "Negative exact", "Bid of broad keyword". */
export function whatOf(line: SheetLine): string {
  const { action, entity, field } = line;
  if (entity === 'negative') {
    const name = negativeNames[line.match_type ?? ''] ?? 'Negative';
    return action === 'archive' ? `Remove ${name.toLowerCase()}` : name;
  }
  if (entity === 'placement_modifier') return `Modifier, ${field.replaceAll('_', ' ')}`;
  if (entity === 'product_ad') return 'Advertised product';
  if (entity === 'left_out')
    return action === 'archive' ? 'Show picture and title' : 'Leave out picture and title';
  const thing = entity === 'target' ? targetOf(line) : entity.replace('_', ' ');
  if (action === 'create') return `New ${thing}`;
  if (action === 'archive') return `Archive ${thing}`;
  const label = fieldOf(entity, field)?.label ?? field;
  return entity === 'target' || field === 'status' ? `${label} of ${thing}` : label;
}

const targetOf = (line: SheetLine): string =>
  line.target_kind === 'keyword' ? `${line.match_type ?? ''} keyword` : `${line.target_kind ?? ''} target`;

const textOf = ({ entity, field }: SheetLine, value: string | null): string =>
  valueText(fieldOf(entity, field), value);

export const oldText = (line: SheetLine): string => textOf(line, line.old_value);
export const newText = (line: SheetLine): string => textOf(line, line.new_value);
export const nowText = (line: SheetLine): string => textOf(line, line.now_value) || 'gone';
