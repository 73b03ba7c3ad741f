import { LRUCache } from 'lru-cache';
import type { BudgetsAnswer } from '../../answers/spend.ts';
import { budgetLine } from '../../core/budgets/lines.ts';
import type { BudgetRow } from '../../core/budgets/rows.ts';
import { fieldOf, valueProblem } from '../../core/changes/fields.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import type { Window } from '../../core/metrics/days.ts';
import { getAccount } from '../account/account.ts';
import { fieldLimitsOf } from '../account/limits.ts';
import { openBids } from '../changes/lines.queries.ts';
import { addDrafts, type Accepted } from '../changes/open.ts';
import { db } from '../db/connection.ts';
import type { BudgetOrder } from '../engine/budgets.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { budgetsOf } from '../engine/link.ts';
import { ServiceError } from '../errors.ts';
import type { BudgetOrders } from './door.ts';
import { budgetLimits, campaignBudgets, openBudgets } from './queries.ts';
import { groupsOf } from './rules.ts';

/** Campaigns with their budgets as JSON, from memory when nothing changed. */
const kept = new LRUCache<string, Promise<string | null>>({ max: 24 });

const minimumOf = async (accountId: number): Promise<number> =>
  fieldLimitsOf(await getAccount(db(), accountId)).minimumBudget;

async function rowsText(accountId: number, window: Window): Promise<string> {
  const edition = await editionOf(accountId);
  const key = [accountId, edition.version, window.from, window.to].join('|');
  let pending = kept.get(key);
  if (!pending) {
    pending = minimumOf(accountId).then((minimum) => budgetsOf().rows(edition, window, minimum));
    kept.set(key, pending);
    pending.catch(() => kept.delete(key));
  }
  const found = await pending;
  if (found === null) throw noFigures();
  return found;
}

/** Every campaign that runs, by its budget. */
export const budgetRowsOf = async (accountId: number, window: Window): Promise<BudgetRow[]> =>
  JSON.parse(await rowsText(accountId, window)) as BudgetRow[];

/** The same as JSON (`BudgetsAnswer`), with what shares a total and what the marketplace allows. */
export async function budgetsAnswer(accountId: number, window: Window): Promise<string> {
  const text = await rowsText(accountId, window);
  const { today } = await getAccount(db(), accountId);
  const { bids, placements, budgets, hours } = await openBids(db(), accountId);
  const head: Omit<BudgetsAnswer, 'campaigns'> = {
    today: today!,
    minimumBudget: await minimumOf(accountId),
    onSheet: Object.fromEntries(await openBudgets(db(), accountId)),
    bidsOnSheet: [...new Set([...bids, ...placements, ...budgets, ...hours])],
    groups: await groupsOf(accountId, JSON.parse(text) as BudgetRow[]),
    limits: await budgetLimits(db(), accountId),
  };
  return `${JSON.stringify(head).slice(0, -1)},"campaigns":${text}}`;
}

/** The lines of findings by their campaigns; one that has none any more is told. */
export async function budgetDraftsOf(
  accountId: number,
  window: Window,
  orders: readonly BudgetOrder[],
): Promise<Map<string, LineDraft[]>> {
  if (orders.length === 0) return new Map();
  const edition = await editionOf(accountId);
  const drafts = new Map(await budgetsOf().drafts(edition, window, await minimumOf(accountId), [...orders]));
  const gone = orders.find(({ campaignId }) => !drafts.has(campaignId));
  if (gone) {
    const message = 'A finding is not there any more: the account has changed. Load the page again.';
    throw new ServiceError(409, 'finding_gone', message, { field: gone.campaignId });
  }
  return drafts;
}

const reasons: Record<BudgetOrders['source'], string> = {
  hand: 'Budget set by hand.',
  split: 'Split of a total: the next unit of money sells the same in each of its campaigns.',
  file: 'Budget out of a file.',
};

/** Puts daily budgets onto the open sheet, all or none. Those that stand so already are left out. */
export async function setBudgets(
  accountId: number,
  window: Window,
  { budgets, source }: BudgetOrders,
): Promise<Accepted> {
  const limits = fieldLimitsOf(await getAccount(db(), accountId));
  const known = new Map((await campaignBudgets(db(), accountId)).map((one) => [one.id, one]));
  const field = fieldOf('campaign', 'daily_budget')!;
  const refuse = (status: number, code: string, message: string, id: string) => {
    throw new ServiceError(status, code, message, { field: id });
  };
  for (const { campaignId, budget } of budgets) {
    const campaign = known.get(campaignId);
    if (!campaign) {
      refuse(
        409,
        'campaign_gone',
        'A campaign is not there any more: it was archived, or is gone at the marketplace. Load the page again.',
        campaignId,
      );
    } else if (campaign.budget === null) {
      refuse(
        422,
        'no_daily_budget',
        `${campaign.name} has no daily budget: it spends one for all its days.`,
        campaignId,
      );
    } else {
      const problem = valueProblem(field, String(budget), limits);
      if (problem !== null) refuse(422, 'bad_budget', `${campaign.name}: ${problem}`, campaignId);
    }
  }
  const changed = budgets.filter(({ campaignId, budget }) => known.get(campaignId)!.budget !== budget);
  if (changed.length === 0)
    throw new ServiceError(422, 'nothing_to_change', 'These budgets stand like that already.');
  const reason = reasons[source];
  const judged = new Set((await budgetRowsOf(accountId, window)).map(({ campaignId }) => campaignId));
  const drafts = await budgetDraftsOf(
    accountId,
    window,
    changed.flatMap((one) => (judged.has(one.campaignId) ? [{ ...one, reason }] : [])),
  );
  // What does not run has no figures to say an effect by.
  const lines = changed.flatMap(
    ({ campaignId, budget }) =>
      drafts.get(campaignId) ?? [budgetLine(campaignId, known.get(campaignId)!.budget!, budget, { reason })],
  );
  return addDrafts(accountId, lines, source === 'split' ? 'Mowing' : 'by hand');
}
