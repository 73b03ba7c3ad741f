import type { BudgetRow } from '../../core/budgets/rows.ts';
import type { Day, Window } from '../../core/metrics/days.ts';
import { changeName } from '../../core/account/as-of.ts';
import type { Offered } from '../../core/routines/candidate.ts';
import { heldBack, type Held } from '../../core/routines/choose.ts';
import type { Routine } from '../../core/routines/routine.ts';
import {
  offeredStages,
  stagedGroup,
  standingIn,
  type StagedGroup,
  type StageGround,
} from '../../core/routines/stage-groups.ts';
import { usualStages, type Standing } from '../../core/routines/stages.ts';
import { randomUUID } from 'node:crypto';
import { getAccount, marginOf } from '../account/account.ts';
import { fieldLimitsOf } from '../account/limits.ts';
import { productsOf } from '../account/queries.ts';
import { budgetGroupsOf, budgetLimits, budgetRowsOf } from '../budgets/index.ts';
import { rowOf } from '../changes/rows.ts';
import type { NewLine } from '../changes/lines.queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { fieldChanged } from '../facts/hours.queries.ts';
import { keepStages, keptStages } from './ground.queries.ts';

/** Stages of budget groups: where campaigns stand, and what that makes of their budgets. */

/** Stages of a routine's groups, as of a day, from the rows and from where campaigns stood; nothing is kept. */
export async function stagesOf(
  accountId: number,
  { scope, stages }: Pick<Routine, 'scope' | 'stages'>,
): Promise<(rows: BudgetRow[], was: ReadonlyMap<string, Standing>, today: Day) => Promise<StagedGroup[]>> {
  const about: Omit<StageGround, 'rows' | 'was' | 'today'> = {
    rules: stages ?? usualStages,
    margins: new Map((await productsOf(db(), accountId)).map((row) => [row.sku, marginOf(row)])),
    limits: new Map((await budgetLimits(db(), accountId)).map((limit) => [limit.campaignId, limit])),
    minimumBudget: fieldLimitsOf(await getAccount(db(), accountId)).minimumBudget,
  };
  const wanted = scope.of === 'budget_groups' ? scope.keys : [];
  return async (rows, was, today) =>
    (await budgetGroupsOf(accountId, rows))
      .filter((group) => group.scope === 'budget_group' && wanted.includes(group.object))
      .map((group) => stagedGroup(group, { ...about, rows, was, today }));
}

/** The groups of a routine with the stages of their campaigns as of today. */
export async function stagedGroups(
  accountId: number,
  routine: Pick<Routine, 'scope' | 'stages'>,
  window: Window,
  today: Day,
): Promise<StagedGroup[]> {
  const staged = await stagesOf(accountId, routine);
  return staged(await budgetRowsOf(accountId, window), await keptStages(db(), accountId), today);
}

/** What stages ask for as findings with their lines, and how the stages are kept. */
export async function stageOffer(
  accountId: number,
  routine: Routine,
  window: Window,
  today: Day,
  proposedBy: string,
): Promise<{
  found: { offered: Offered; held: Held | null; lines: NewLine[] }[];
  keep: (tx: Transaction) => Promise<void>;
}> {
  const groups = await stagedGroups(accountId, routine, window, today);
  const changed = new Map(
    [...(await fieldChanged(db(), accountId, 'daily_budget'))].map(([id, day]) => [
      changeName('campaign', id, 'daily_budget'),
      day,
    ]),
  );
  const found = groups
    .flatMap((group) => offeredStages(group, (name) => changed.get(name) ?? null))
    .map(({ offered, draft }) => {
      const about = {
        sheet_id: 0,
        group_key: randomUUID(),
        finding_key: offered.key,
        proposed_by: proposedBy,
      };
      const line = rowOf(draft, { ...about, reverts: null });
      return { offered, held: heldBack(offered, routine, today), lines: [line] };
    });
  return { found, keep: (tx) => keepStages(tx, accountId, standingIn(groups)) };
}
