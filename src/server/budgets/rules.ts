import type { BudgetRow } from '../../core/budgets/rows.ts';
import type { BudgetGroup, BudgetLimit, BudgetRule } from '../../core/budgets/rules.ts';
import { money } from '../../core/metrics/format.ts';
import { getAccount } from '../account/account.ts';
import { fieldLimitsOf } from '../account/limits.ts';
import { productsOf, touchGoals } from '../account/queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { budgetRules } from '../account/budgets.queries.ts';
import { campaignBudgets, groupMembers, isThere, putLimit, putRule } from './queries.ts';

/** What shares a total: the account, products of several campaigns, and the marketplace's budget groups. */
export async function groupsOf(accountId: number, rows: readonly BudgetRow[]): Promise<BudgetGroup[]> {
  const rules = new Map(
    (await budgetRules(db(), accountId)).map((rule) => [`${rule.scope}:${rule.object}`, rule]),
  );
  const withBudget = rows.filter(({ budget }) => budget !== null);
  const titles = new Map((await productsOf(db(), accountId)).map(({ sku, title }) => [sku, title]));
  const bySku = new Map<string, string[]>();
  for (const { sku, campaignId } of withBudget)
    if (sku !== null) bySku.set(sku, [...(bySku.get(sku) ?? []), campaignId]);
  const runs = new Set(withBudget.map(({ campaignId }) => campaignId));
  const made = (about: Omit<BudgetGroup, 'rule'>): BudgetGroup => ({
    ...about,
    rule: rules.get(`${about.scope}:${about.object}`) ?? null,
  });
  const sets = await groupMembers(db(), accountId);
  return [
    made({
      scope: 'account',
      object: '',
      name: 'All campaigns',
      set: null,
      campaignIds: withBudget.map(({ campaignId }) => campaignId),
    }),
    ...sets.map(({ object, name, set, campaignIds }) =>
      made({
        scope: 'budget_group',
        object,
        name,
        set,
        campaignIds: campaignIds.filter((id) => runs.has(id)),
      }),
    ),
    ...[...bySku].map(([sku, campaignIds]) =>
      made({ scope: 'product', object: sku, name: titles.get(sku) ?? sku, set: null, campaignIds }),
    ),
  ].filter(({ campaignIds, rule }) => campaignIds.length > 1 || rule !== null);
}

function refuseCrossed(least: number | null, most: number | null): void {
  if (least === null || most === null || least <= most) return;
  throw new ServiceError(
    422,
    'least_above_most',
    `At least ${money(least)} and at most ${money(most)} a day: the most lies below the least.`,
    { field: 'most' },
  );
}

/** Keeps what is said of a total; the rounds from now on keep to it. */
export async function setRule(accountId: number, rule: BudgetRule): Promise<void> {
  const { scope, object, least, most, graceDays, graceLeast } = rule;
  refuseCrossed(least, most);
  if ((graceDays === null) !== (graceLeast === null))
    throw new ServiceError(
      422,
      'half_a_grace',
      'A grace has both: for how many days, and at least how much.',
      {
        field: graceDays === null ? 'graceDays' : 'graceLeast',
      },
    );
  if (!(await isThere(db(), accountId, scope, object)))
    throw notFound(`${scope.replace('_', ' ')} ${object}`);
  await db().begin(async (begun) => {
    const tx = begun as Transaction;
    await putRule(tx, accountId, rule);
    await touchGoals(tx, accountId);
  });
}

/** Keeps what one campaign gets at least and at most. */
export async function setLimit(accountId: number, limit: BudgetLimit): Promise<void> {
  const { campaignId, least, most } = limit;
  refuseCrossed(least, most);
  const { minimumBudget } = fieldLimitsOf(await getAccount(db(), accountId));
  if (most !== null && most < minimumBudget)
    throw new ServiceError(
      422,
      'below_minimum',
      `At most ${money(most)} a day lies below the marketplace’s least budget of ${money(minimumBudget)}.`,
      { field: 'most' },
    );
  if (!(await campaignBudgets(db(), accountId)).some(({ id }) => id === campaignId))
    throw notFound(`campaign ${campaignId}`);
  await db().begin((begun) => putLimit(begun as Transaction, accountId, limit));
}
