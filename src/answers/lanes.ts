import type { Flow, MapAdGroup } from '../core/lanes/flow.ts';
import type { Lane, LaneProblem } from '../core/lanes/lanes.ts';
import type { Window } from '../core/metrics/days.ts';

/** A lane with what keeps it from working as the account stands now; null for a good one. */
export type CheckedLane = Lane & { problem: LaneProblem | null };

export type MapLane = CheckedLane & { flow: Flow };

export interface LaneMapAnswer {
  /** Whether the set is the account's own, or what its products and names propose. */
  saved: boolean;
  window: Window;
  lanes: MapLane[];
  /** Of all that came down any lane; a lane's own may be another's too. */
  orders: number;
  proposed: Lane[];
  adGroups: MapAdGroup[];
  /** Titles by SKU. */
  products: Record<string, string>;
}
