import type { AsOf } from '../../core/account/as-of.ts';
import type { Day } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import type { CampaignMoves } from '../../core/routines/as-played.ts';

/** What campaigns are judged on for a night of the past, beside the account as it stood. */
export interface PastGround {
  /** Share of a day's orders, of those known by now, that was known then. */
  known: (day: Day) => number;
  /** When a field was changed last by then, by the object's id, with what was played; of modifiers any of a campaign's. */
  changedOn: (entity: string, field: string) => Map<string, Day>;
  /** The same without what was played. */
  stoodOn: (entity: string, field: string) => Map<string, Day>;
  /** Campaigns of which something was played, by id. */
  moves: ReadonlyMap<string, CampaignMoves>;
  /** The daily budget that really stood; null where it is of another kind. */
  stoodBudget: (campaignId: string) => Micros | null;
}

const fieldsOf =
  (days: ReadonlyMap<string, Day>) =>
  (entity: string, field: string): Map<string, Day> => {
    const found = new Map<string, Day>();
    for (const [name, day] of days) {
      const [of, id, what] = name.split(':') as [string, string, string | undefined];
      const isIt = entity === 'placement_modifier' ? of === 'placements' : of === entity && what === field;
      if (isIt) found.set(id, day);
    }
    return found;
  };

/** Of the account on an earlier day. */
export function pastGround(
  { stood, changedOn, stoodOn }: AsOf,
  known: (day: Day) => number,
  moves: ReadonlyMap<string, CampaignMoves>,
): PastGround {
  const budgets = new Map(stood.campaigns.map(({ id, fields }) => [id, Number(fields.daily_budget ?? 0)]));
  return {
    known,
    changedOn: fieldsOf(changedOn),
    stoodOn: fieldsOf(stoodOn),
    moves,
    stoodBudget: (id) => budgets.get(id) || null,
  };
}
