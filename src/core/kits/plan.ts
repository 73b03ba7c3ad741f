import type { NegativeType } from '../account/store.ts';
import type { Guards } from '../bids/guards.ts';
import type { Day } from '../metrics/days.ts';
import { counted, money } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { normalise } from '../text/normalise.ts';
import { firstBidOf, type FirstBid, type KindEvidence, type SuggestedRange } from './bids.ts';
import { bought, clicksToJudge, leastWhole, splitBudget, type Bought } from './budget.ts';
import { isUsable, type KeywordCheck, type KitKeyword } from './keywords.ts';
import { freeName, nameOf, unknownTokens } from './names.ts';
import type { Part, PartKind, PartState, Recipe, Strategy } from './recipe.ts';

/** The product that a kit is for. */
export interface KitProduct {
  sku: string;
  itemCode: string;
  title: string;
  /** How the account calls it in names. */
  code: string;
  /** Pieces there are; null where that is not known. */
  stock: number | null;
}

/** What is changed of a part by hand. */
export interface PartEdit {
  state?: PartState;
  name?: string;
  dailyBudget?: Micros;
  strategy?: Strategy;
  /** Of all its targets. */
  bid?: Micros;
}

/** An item of the kit: a page beside which the product shall be shown. */
export interface KitItem {
  itemCode: string;
  bid: Micros | null;
}

/** What goes into a kit. */
export interface KitSettings {
  /** A day, for all parts together. */
  budget: Micros;
  startDate: Day | null;
  endDate: Day | null;
  startPaused: boolean;
  keywords: readonly KitKeyword[];
  items: readonly KitItem[];
  /** Phrases that no part of the kit is shown for. */
  excluded: readonly string[];
  edits: Readonly<Record<string, PartEdit>>;
}

/** The product's own page, as category targets are narrowed by it. */
export interface KitPage {
  category: string | null;
  price: Micros;
  rating: number | null;
}

/** What the account and the marketplace say. Money in micros. */
export interface KitContext {
  theta: number;
  evidence: Readonly<Record<PartKind, KindEvidence>>;
  guards: Guards;
  /** Below it nothing is shown, by kind. */
  leastCpc: Readonly<Record<PartKind, Micros>>;
  minimumBudget: Micros;
  itemCode: string;
  targetsPerAdGroup: number;
  negativesPerAdGroup: number;
  nameCharacters: number;
  /** Names of campaigns that are taken, in lower case. */
  taken: ReadonlySet<string>;
  /** What clicks took, by keyword or item code as they are normalised. */
  ranges: ReadonlyMap<string, SuggestedRange>;
  /** Codes of the account's own products. */
  ownPages: readonly string[];
  /** Where its page stands: prices in micros, ratings of 1 to 5 stars; null where that is not known. */
  page: KitPage;
  /** The product's term that has sold most; null without an order. */
  best: string | null;
  today: Day | null;
}

/** Something that is wrong with a plan, at its place. */
export interface PlanProblem {
  /** Null: of the whole kit. */
  part: string | null;
  at: 'product' | 'recipe' | 'name' | 'budget' | 'dates' | 'keywords' | 'items' | 'targets' | 'negatives';
  text: string;
  /** Nothing is made while it stands. */
  stops: boolean;
}

export interface PlannedTarget extends FirstBid {
  targetKind: 'automatic' | 'keyword' | 'item' | 'category';
  matchType: 'broad' | 'phrase' | 'exact' | null;
  expression: string;
}

export interface PlannedNegative {
  matchType: NegativeType;
  expression: string;
  /** The part that serves it; null: it is excluded from the whole kit. */
  servedBy: string | null;
}

/** A part as it would be made: a campaign with one ad group of the same name. */
export interface PlannedPart {
  part: Part;
  state: 'fill' | 'empty';
  name: string;
  dailyBudget: Micros;
  strategy: Strategy;
  defaultBid: FirstBid;
  targets: PlannedTarget[];
  negatives: PlannedNegative[];
  /** Expected CPC, micros, and what the budget buys of it. */
  cpc: Micros;
  bought: Bought;
}

export interface Plan {
  product: KitProduct;
  recipe: string;
  parts: PlannedPart[];
  problems: PlanProblem[];
}

/** Parts that serve more precisely come first (domain, section 15). */
const precision: Record<PartKind, number> = {
  exact: 0,
  items: 0,
  phrase: 1,
  broad: 2,
  category: 3,
  automatic: 3,
};

/** What a target of one part is kept out by in a less precise one; null: the two never meet. */
function shutOut(target: PlannedTarget, from: PartKind, to: PartKind): NegativeType | null {
  if (precision[from] >= precision[to]) return null;
  if (target.targetKind === 'item') return to === 'automatic' || to === 'category' ? 'negative_item' : null;
  if (target.targetKind !== 'keyword' || to === 'items' || to === 'category') return null;
  if (from === 'exact') return 'negative_exact';
  if (from === 'phrase') return to === 'broad' ? 'negative_phrase' : 'negative_exact';
  return to === 'automatic' ? 'negative_exact' : null;
}

/** Everything that would be made for a product, and whatever is wrong with it. Nothing is thrown. */
export function planKit(
  recipe: Recipe,
  product: KitProduct,
  settings: KitSettings,
  checks: readonly KeywordCheck[],
  context: KitContext,
): Plan {
  const problems: PlanProblem[] = [];
  const say = (part: string | null, at: PlanProblem['at'], text: string, stops = true) =>
    void problems.push({ part, at, text, stops });
  const kept = recipe.parts
    .map((part) => ({ part, edit: settings.edits[part.name] ?? {} }))
    .map(({ part, edit }) => ({ part, edit, state: edit.state ?? part.state }))
    .filter((one): one is typeof one & { state: 'fill' | 'empty' } => one.state !== 'out');
  if (kept.length === 0) say(null, 'recipe', 'Every part is left out: there is nothing to make.');
  for (const name of unknownTokens(recipe.pattern))
    say(null, 'name', `The name pattern holds {${name}}, which stands for nothing.`);
  checkWhole(product, settings, checks, context, say);

  const shares = kept.map(({ part, edit }) => ({ share: part.share, own: edit.dailyBudget ?? null }));
  const budgets = splitBudget(settings.budget, shares);
  checkBudgets(kept, budgets, shares, settings.budget, context, say);

  const taken = new Set(context.taken);
  const parts = kept.map(({ part, edit, state }, at): PlannedPart => {
    const tokens = {
      code: product.code,
      part: part.name,
      purpose: part.purpose,
      sku: product.sku,
      number: at + 1,
    };
    const wanted = edit.name?.trim() ?? nameOf(recipe.pattern, tokens);
    if (edit.name !== undefined && taken.has(wanted.toLowerCase()))
      say(part.name, 'name', `There is a campaign “${wanted}” already: give it another name.`);
    const name = edit.name === undefined ? freeName(wanted, taken) : wanted;
    taken.add(name.toLowerCase());
    if (name === '') say(part.name, 'name', 'It needs a name.');
    if (name.length > context.nameCharacters)
      say(
        part.name,
        'name',
        `Its name has ${name.length} characters, ${context.nameCharacters} are the most.`,
      );
    const first = firstBids(part, edit, context);
    const defaultBid = first(null, null);
    const targets = state === 'fill' ? targetsOf(part, settings, checks, product, context, first) : [];
    if (targets.length > context.targetsPerAdGroup)
      say(
        part.name,
        'targets',
        `It has ${counted(targets.length, 'target')}, ${context.targetsPerAdGroup} are the most.`,
      );
    if (state === 'fill' && targets.length === 0) say(part.name, 'targets', emptySaid(part, settings), false);
    const evidence = context.evidence[part.kind];
    const cpc = expectedCpc(targets, defaultBid.bid) * evidence.paidPerBid;
    const dailyBudget = budgets[at]!;
    const buys = bought(dailyBudget, cpc, evidence.rate);
    if (dailyBudget >= context.minimumBudget && buys.clicksADay < clicksToJudge)
      say(
        part.name,
        'budget',
        `${money(dailyBudget)} buys ${buys.clicksADay.toFixed(1)} clicks a day at ${money(cpc)}; ${clicksToJudge} a day, ` +
          `${money(Math.ceil((clicksToJudge * cpc) / 10_000) * 10_000)}, would judge it within a month.`,
        false,
      );
    const strategy = edit.strategy ?? part.strategy;
    return {
      part,
      state,
      name,
      dailyBudget,
      strategy,
      defaultBid,
      targets,
      negatives: [],
      cpc,
      bought: buys,
    };
  });
  for (const one of parts) {
    one.negatives = negativesOf(one, parts, settings.excluded);
    if (one.negatives.length > context.negativesPerAdGroup)
      say(
        one.part.name,
        'negatives',
        `It needs ${counted(one.negatives.length, 'negative')} to be kept apart, ${context.negativesPerAdGroup} are the most.`,
      );
  }
  return { product, recipe: recipe.name, parts, problems };
}

type Say = (part: string | null, at: PlanProblem['at'], text: string, stops?: boolean) => void;

function checkWhole(
  product: KitProduct,
  settings: KitSettings,
  checks: readonly KeywordCheck[],
  context: KitContext,
  say: Say,
): void {
  const { startDate, endDate } = settings;
  const { today } = context;
  if (product.stock === 0)
    say(null, 'product', `${product.sku} is out of stock: nothing of it would be shown.`, false);
  if (startDate !== null && endDate !== null && endDate < startDate)
    say(null, 'dates', `It ends on ${endDate}, before it starts on ${startDate}.`);
  if (endDate !== null && today !== null && endDate < today)
    say(null, 'dates', `${endDate} has passed: the account’s day is ${today}.`);
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

function checkBudgets(
  kept: readonly { part: Part }[],
  budgets: readonly Micros[],
  shares: readonly { share: number; own: Micros | null }[],
  whole: Micros,
  { minimumBudget }: KitContext,
  say: Say,
): void {
  const needed = leastWhole(shares, minimumBudget);
  kept.forEach(({ part }, at) => {
    if (budgets[at]! >= minimumBudget) return;
    const own = shares[at]!.own !== null;
    say(
      part.name,
      'budget',
      `${money(budgets[at]!)} is below the least budget of ${money(minimumBudget)}${own ? '' : `: a kit of these shares needs ${money(needed)}`}.`,
    );
  });
  const sum = budgets.reduce((a, b) => a + b, 0);
  if (kept.length > 0 && sum !== whole)
    say(null, 'budget', `The parts add up to ${money(sum)}, not to the kit’s ${money(whole)}.`, false);
}

/** First bids of a part's targets: by what is known of its kind, and of the very text. */
function firstBids(part: Part, edit: PartEdit, context: KitContext) {
  const way = edit.bid === undefined ? part.firstBid : ({ way: 'fixed', bid: edit.bid } as const);
  const about = { theta: context.theta, modifier: 1, careful: part.purpose === 'research' };
  return (own: Micros | null, text: string | null): FirstBid =>
    firstBidOf(
      own === null || edit.bid !== undefined ? way : { way: 'fixed', bid: own },
      context.evidence[part.kind],
      about,
      text === null ? null : (context.ranges.get(normalise(text)) ?? null),
      context.guards,
      context.leastCpc[part.kind],
    );
}

function targetsOf(
  part: Part,
  settings: KitSettings,
  checks: readonly KeywordCheck[],
  product: KitProduct,
  context: KitContext,
  first: (own: Micros | null, text: string | null) => FirstBid,
): PlannedTarget[] {
  const { kind, source } = part;
  if (kind === 'automatic')
    return part.modes.map((mode) => ({
      targetKind: 'automatic',
      matchType: null,
      expression: mode,
      ...first(null, null),
    }));
  if (kind === 'category') {
    const expression = categoryOf(context.page);
    if (expression === null) return [];
    return [{ targetKind: 'category', matchType: null, expression, ...first(null, null) }];
  }
  if (kind === 'items') {
    const pattern = new RegExp(context.itemCode, 'iu');
    const list =
      source === 'own_pages' ? context.ownPages.map((itemCode) => ({ itemCode, bid: null })) : settings.items;
    const codes = new Map(list.map((item) => [item.itemCode.toUpperCase(), item.bid]));
    codes.delete(product.itemCode.toUpperCase());
    return [...codes]
      .filter(([code]) => pattern.test(code))
      .map(([code, bid]) => ({ targetKind: 'item', matchType: null, expression: code, ...first(bid, code) }));
  }
  const keyword = (text: string, bid: Micros | null): PlannedTarget => ({
    targetKind: 'keyword',
    matchType: kind,
    expression: text,
    ...first(bid, text),
  });
  if (source === 'best') return context.best === null ? [] : [keyword(context.best, null)];
  return settings.keywords.flatMap(({ text, bid }, at) =>
    isUsable(checks[at]!, kind) ? [keyword(text, bid)] : [],
  );
}

/**
 * The pages of a category whose visitors are won most easily: from our price upward, and rated up to ours (domain,
 * section 15).
 * @example categoryOf({ category: 'crocks', price: 44_000_000, rating: 4.2 }) // 'crocks, price 44.00-, rating -4.2'
 */
export function categoryOf({ category, price, rating }: KitPage): string | null {
  if (category === null || category === '') return null;
  const narrowed = [category];
  if (price > 0) narrowed.push(`price ${money(price).replaceAll(',', '')}-`);
  if (rating !== null) narrowed.push(`rating -${rating.toFixed(1)}`);
  return narrowed.join(', ');
}

function emptySaid({ kind, source }: Part, { keywords, items }: KitSettings): string {
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

/** Mean bid of what a part would bid on; the default bid while that is nothing. */
const expectedCpc = (targets: readonly PlannedTarget[], defaultBid: Micros): Micros =>
  targets.length === 0 ? defaultBid : targets.reduce((sum, { bid }) => sum + bid, 0) / targets.length;

/** What one part is kept out of: what more precise parts serve, and what the whole kit excludes. */
function negativesOf(
  { part: to }: PlannedPart,
  parts: readonly PlannedPart[],
  excluded: readonly string[],
): PlannedNegative[] {
  const found = new Map<string, PlannedNegative>();
  const add = (matchType: NegativeType, expression: string, servedBy: string | null) => {
    const key = `${matchType}\t${normalise(expression)}`;
    if (!found.has(key)) found.set(key, { matchType, expression, servedBy });
  };
  if (to.kind !== 'items' && to.kind !== 'category')
    for (const text of excluded) if (normalise(text) !== '') add('negative_phrase', text, null);
  for (const { part: from, targets } of parts)
    for (const target of targets) {
      const matchType = shutOut(target, from.kind, to.kind);
      if (matchType) add(matchType, target.expression, from.name);
    }
  return [...found.values()];
}

/** How many targets and negatives a plan makes, and what it spends a day at most. */
export const planTotals = ({ parts }: Plan) => ({
  campaigns: parts.length,
  targets: parts.reduce((sum, { targets }) => sum + targets.length, 0),
  negatives: parts.reduce((sum, { negatives }) => sum + negatives.length, 0),
  dailyBudget: parts.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0),
});

/** Who shuts whom out of how much: pairs of parts, for the picture of the funnel. */
export function funnelOf({ parts }: Plan): { from: string; to: string; terms: number }[] {
  const pairs: { from: string; to: string; terms: number }[] = [];
  for (const { part: to, negatives } of parts) {
    const counts = new Map<string, number>();
    for (const { servedBy } of negatives)
      if (servedBy !== null) counts.set(servedBy, (counts.get(servedBy) ?? 0) + 1);
    for (const [from, terms] of counts) pairs.push({ from, to: to.name, terms });
  }
  return pairs;
}
