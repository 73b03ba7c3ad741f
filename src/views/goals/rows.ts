import type { GoalAnswer, GoalProduct, GoalsAnswer } from '../../answers/goals.ts';
import { methods, type Method } from '../../core/bids/methods.ts';
import { Goals, type Goal, type GoalScope, type ScopeName } from '../../core/goals/goals.ts';

/** A scope that has a goal, or may have one. */
export interface ScopeRow {
  id: string;
  scope: GoalScope;
  key: string;
  title: string;
  detail: string;
  /** What was set for it; null: nothing. */
  goal: GoalAnswer | null;
  /** What holds for it. */
  rules: Goal;
  product: GoalProduct | null;
}

/** What methods are called. */
export const methodNames: Record<Method, string> = {
  evidence: 'evidence',
  strict: 'each at its goal',
  bands: 'bands',
  rpc: 'revenue per click',
};
export const methodList = methods.map((id) => ({ id, name: methodNames[id] }));

/** Whose a setting is, as one says it beside a value. */
export function ofScope(from: ScopeName | null, answer: GoalsAnswer): string {
  if (from === null) return 'usual';
  if (from.scope === 'account') return 'the account’s';
  if (from.scope === 'product') return `of ${from.key}`;
  const named = answer.goals.find(({ scope, key }) => scope === from.scope && key === from.key);
  return `of ${named?.name ?? from.key}`;
}

/** All scopes of the page: the account, its products, and campaigns and ad groups that have goals of their own. */
export function scopeRows(answer: GoalsAnswer): ScopeRow[] {
  const margins = new Map(answer.products.map(({ sku, margin }) => [sku, margin]));
  const set = answer.goals.map((goal) => ({ ...goal, theta: goal.theta?.value ?? 0 }));
  const goals = new Goals(set, undefined, (sku) => margins.get(sku) ?? null);
  const own = new Map(answer.goals.map((goal) => [`${goal.scope}:${goal.key}`, goal]));
  const products = new Map(answer.products.map((product) => [product.sku, product]));
  const row = (
    scope: GoalScope,
    key: string,
    place: { adGroupId: string | null; campaignId: string; sku: string | null },
    about: Pick<ScopeRow, 'title' | 'detail'>,
  ): ScopeRow => ({
    ...about,
    id: `${scope}:${key}`,
    scope,
    key,
    goal: own.get(`${scope}:${key}`) ?? null,
    rules: goals.of(place),
    product: place.sku === null ? null : (products.get(place.sku) ?? null),
  });
  const nowhere = { adGroupId: null, campaignId: '', sku: null };
  return [
    row('account', '', nowhere, { title: 'The account', detail: 'rules wherever nothing narrower does' }),
    ...answer.products.map((product) =>
      row(
        'product',
        product.sku,
        { ...nowhere, sku: product.sku },
        {
          title: product.sku,
          detail: product.title + stockSaid(product),
        },
      ),
    ),
    ...answer.goals
      .filter(({ scope }) => scope === 'campaign' || scope === 'ad_group')
      .map((goal) =>
        row(
          goal.scope,
          goal.key,
          {
            adGroupId: goal.scope === 'ad_group' ? goal.key : null,
            campaignId: goal.campaignId ?? '',
            sku: goal.sku,
          },
          {
            title: goal.name ?? goal.key,
            detail: goal.scope === 'campaign' ? 'campaign' : `ad group in ${goal.campaign ?? ''}`,
          },
        ),
      ),
  ];
}

const stockSaid = ({ stock }: GoalProduct): string =>
  stock === null || stock >= 50 ? '' : stock <= 0 ? ', out of stock' : `, ${stock} left`;

/** What a plan says of a month. */
export const planFields = [
  { name: 'spend', label: 'Spend' },
  { name: 'sales', label: 'Ad sales' },
  { name: 'revenue', label: 'Revenue' },
] as const;
