import type { ReactNode } from 'react';
import type { Window } from '../../core/metrics/days.ts';

/** What every part of Lanes is given. */
export interface PartProps {
  window: Window;
  currency: string;
  /** The parts of Lanes, which each shows over its own. */
  tabs: ReactNode;
}
