import { counted, money } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { leastWhole, wholeCents } from './budget.ts';
import type { KeywordCheck } from './keywords.ts';
import type { Part } from './recipe.ts';
import { seasonSaid } from '../metrics/season.ts';
import type { KitContext, KitProduct, KitSettings, PlanProblem } from './types.ts';

/** What is wrong with a plan, said at its place. */

/** Notes what is wrong, at its place. */
export type Say = (part: string | null, at: PlanProblem['at'], text: string, stops?: boolean) => void;

export function checkWhole(
  products: readonly KitProduct[],
  settings: KitSettings,
  checks: readonly KeywordCheck[],
  context: KitContext,
  say: Say,
): void {
  const { startDate, endDate } = settings;
  const { today } = context;
  for (const { sku, stock } of products)
    if (stock === 0) say(null, 'product', `${sku} is out of stock: nothing of it would be shown.`, false);
  if (startDate !== null && endDate !== null && endDate < startDate)
    say(null, 'dates', `It ends on ${endDate}, before it starts on ${startDate}.`);
  if (endDate !== null && today !== null && endDate < today)
    say(null, 'dates', `${endDate} has passed: the account’s day is ${today}.`);
  if (endDate === null && settings.budgetKind === 'lifetime')
    say(null, 'dates', 'A budget for all days together needs an end date.');
  if (endDate === null && context.season !== null)
    say(
      null,
      'dates',
      `It has no end date, and the product has a season. ${seasonSaid(context.season)}. What is made runs on after it.`,
      false,
    );
  const wrong = checks.filter((check) => check.wrong !== null).length;
  if (wrong > 0)
    say(
      null,
      'keywords',
      `${counted(wrong, 'keyword')} cannot be used and ${wrong === 1 ? 'stays' : 'stay'} out.`,
      false,
    );
  const pattern = new RegExp(context.itemCode, 'iu');
  const bad = settings.items.filter(({ itemCode }) => !pattern.test(itemCode));
  if (bad.length > 0)
    say(null, 'items', `${bad.map(({ itemCode }) => `“${itemCode}”`).join(', ')}: no item code.`, false);
}

export function checkBudgets(
  made: readonly { part: Part }[],
  budgets: readonly Micros[],
  shares: readonly { share: number; own: Micros | null }[],
  ofMade: number,
  { budget, budgetKind }: KitSettings,
  { minimumBudget }: KitContext,
  say: Say,
): void {
  const least = minimumBudget[budgetKind];
  const whole = wholeCents(budget * ofMade);
  const needed = leastWhole(shares, least) / ofMade;
  made.forEach(({ part }, at) => {
    if (budgets[at]! >= least) return;
    const own = shares[at]!.own !== null;
    say(
      part.name,
      'budget',
      `${money(budgets[at]!)} is below the least budget of ${money(least)}${own ? '' : `: a kit of these shares needs ${money(needed)}`}.`,
    );
  });
  const sum = budgets.reduce((a, b) => a + b, 0);
  if (made.length > 0 && sum !== whole)
    say(
      null,
      'budget',
      `The parts add up to ${money(sum)}, not to ${ofMade === 1 ? 'the kit’s' : 'what the kit has for them,'} ${money(whole)}.`,
      false,
    );
}

export function emptySaid({ kind, source }: Part, { keywords, items }: KitSettings): string {
  if (source === 'best') return 'No term of this product has sold yet: there is no best keyword.';
  if (kind === 'category')
    return 'The category of this product is not known: load its products, or leave it out.';
  if (kind === 'items' && source === 'kit')
    return items.length === 0
      ? 'It has no item: paste codes, or leave it out.'
      : 'None of the items can be used.';
  return keywords.length === 0
    ? 'It has no keyword: add some, or make it empty.'
    : 'All of its keywords are bid on already, or cannot be used.';
}
