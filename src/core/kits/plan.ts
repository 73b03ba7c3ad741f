import { daysBetween } from '../metrics/days.ts';
import { counted, money } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { NegativeIndex } from '../terms/match.ts';
import { normalise } from '../text/normalise.ts';
import { firstBidOf, type FirstBid } from './bids.ts';
import { bought, clicksToJudge, splitBudget } from './budget.ts';
import { checkBudgets, checkWhole, emptySaid, type Say } from './checks.ts';
import { negativesOf } from './funnel.ts';
import { isUsable, type KeywordCheck } from './keywords.ts';
import { creativesOf } from './creatives.ts';
import { freeName, nameOf, unknownTokens } from './names.ts';
import {
  byStanding,
  categoryTarget,
  ownCategory,
  readCategoryTarget,
  staleCategories,
  staleItems,
  standingOf,
} from './pages.ts';
import type { Part, Recipe } from './recipe.ts';
import { recognise, type RunningAdGroup, type RunningTarget } from './running.ts';
import type {
  KitContext,
  KitProduct,
  KitSettings,
  PartEdit,
  Plan,
  PlannedPart,
  PlannedTarget,
  PlanProblem,
  StaleTarget,
} from './types.ts';

/** A part that is not left out, and the ad group that is it already. */
interface KeptPart {
  part: Part;
  edit: PartEdit;
  state: 'fill' | 'empty';
  stands: RunningAdGroup | null;
}

/** Parts that are made, or stand already and are completed; those left out are not there. */
function keptParts(recipe: Recipe, settings: KitSettings, context: KitContext): KeptPart[] {
  const ownPages = new Set(context.ownPages);
  const found = settings.completes
    ? recognise(recipe, context.running, { ownPages, best: context.best })
    : new Map<string, RunningAdGroup>();
  const chosen = new Set(recipe.parts.flatMap(({ name }) => settings.edits[name]?.stands ?? []));
  return recipe.parts.flatMap((part): KeptPart[] => {
    const edit = settings.edits[part.name] ?? {};
    const state = edit.state ?? part.state;
    if (state === 'out') return [];
    const own = edit.stands;
    const guess = found.get(part.name) ?? null;
    const stands =
      own === undefined
        ? guess && chosen.has(guess.adGroupId)
          ? null
          : guess
        : (context.running.find(({ adGroupId }) => adGroupId === own) ?? null);
    return [{ part, edit, state, stands }];
  });
}

/** Days that a budget for all of them is parted over; 1 of a daily one. */
function budgetDays({ budgetKind, startDate, endDate }: KitSettings, { today }: KitContext): number {
  if (budgetKind === 'daily') return 1;
  const start = startDate ?? today;
  return start !== null && endDate !== null && endDate >= start ? daysBetween(start, endDate) + 1 : 1;
}

/** Everything that would be made for a product, and whatever is wrong with it. Nothing is thrown. */
export function planKit(
  recipe: Recipe,
  [product, ...also]: readonly [KitProduct, ...KitProduct[]],
  settings: KitSettings,
  checks: readonly KeywordCheck[],
  context: KitContext,
): Plan {
  const problems: PlanProblem[] = [];
  const say: Say = (part, at, text, stops = true) => void problems.push({ part, at, text, stops });
  const kept = keptParts(recipe, settings, context);
  if (kept.length === 0) say(null, 'recipe', 'Every part is left out: there is nothing to make.');
  for (const name of unknownTokens(recipe.pattern))
    say(null, 'name', `The name pattern holds {${name}}, which stands for nothing.`);
  checkWhole([product, ...also], settings, checks, context, say);

  const made = kept.filter(({ stands }) => stands === null);
  const shares = made.map(({ part, edit }) => ({ share: part.share, own: edit.budget ?? null }));
  const budgets = splitBudget(settings.budget, shares);
  checkBudgets(made, budgets, shares, settings, context, say);
  const days = budgetDays(settings, context);
  const budgetOf = ({ stands, edit, ...one }: KeptPart): Micros =>
    stands === null
      ? budgets[made.findIndex(({ part }) => part === one.part)]!
      : (edit.budget ?? stands.dailyBudget ?? 0);

  const taken = new Set(context.taken);
  const parts = kept.map((one, at): PlannedPart => {
    const { part, edit, state, stands } = one;
    const name = stands?.campaign ?? ownName(one, at + 1, product, recipe.pattern, taken, context, say);
    const first = firstBids(part, edit, context);
    const defaultBid = first(null, null);
    const { stale, archives, targets } = filled(one, settings, checks, product, context, first, say);
    const size = targets.length + (stands?.targets.length ?? 0) - archives.length;
    if (size > context.targetsPerAdGroup)
      say(
        part.name,
        'targets',
        `It has ${counted(size, 'target')}, ${context.targetsPerAdGroup} are the most.`,
      );
    if (state === 'fill' && size === 0) say(part.name, 'targets', emptySaid(part, settings), false);
    if (stands !== null && stands.status !== 'enabled' && targets.length > 0)
      say(
        part.name,
        'targets',
        `${stands.name} is ${stands.status}: what is added is not shown until it is enabled.`,
        false,
      );
    if (stale.length > archives.length)
      say(
        part.name,
        'targets',
        `${counted(stale.length, 'target')} no longer ${stale.length === 1 ? 'fits' : 'fit'} the product’s page: refresh it. ${stale[0]!.why}`,
        false,
      );
    const evidence = context.evidence[part.kind];
    const cpc = expectedCpc(bidsOf(targets, stands), defaultBid.bid) * evidence.paidPerBid;
    const budget = budgetOf(one);
    if (stands !== null && edit.budget !== undefined && edit.budget < context.minimumBudget.daily)
      say(
        part.name,
        'budget',
        `${money(edit.budget)} is below the least budget of ${money(context.minimumBudget.daily)}.`,
      );
    const dailyBudget = stands === null ? budget / days : budget;
    const buys = bought(dailyBudget, cpc, evidence.rate);
    if (dailyBudget >= context.minimumBudget.daily && buys.clicksADay < clicksToJudge)
      say(
        part.name,
        'budget',
        `${money(dailyBudget)} a day buys ${buys.clicksADay.toFixed(1)} clicks at ${money(cpc)}; ${clicksToJudge} a day, ` +
          `${money(Math.ceil((clicksToJudge * cpc) / 10_000) * 10_000)}, would judge it within a month.`,
        false,
      );
    return {
      part,
      state,
      stands,
      name,
      budget,
      dailyBudget,
      strategy: edit.strategy ?? part.strategy,
      defaultBid,
      targets,
      negatives: [],
      stale,
      archives,
      cpc,
      bought: buys,
    };
  });
  for (const one of parts) {
    one.negatives = negativesOf(one, parts, { excluded: settings.excluded, lists: context.lists });
    const size = one.negatives.length + (one.stands?.negatives.length ?? 0);
    if (size > context.negativesPerAdGroup)
      say(
        one.part.name,
        'negatives',
        `It needs ${counted(size, 'negative')} to be kept apart, ${context.negativesPerAdGroup} are the most.`,
      );
  }
  const creatives = creativesOf(settings, context.creatives, say);
  return { product, also, recipe: recipe.name, parts, creatives, problems };
}

/** The name of a part that is made; it is taken then. */
function ownName(
  { part, edit }: KeptPart,
  number: number,
  { code, sku }: KitProduct,
  pattern: string,
  taken: Set<string>,
  context: KitContext,
  say: Say,
): string {
  const tokens = { code, part: part.name, purpose: part.purpose, sku, number };
  const wanted = edit.name?.trim() ?? nameOf(pattern, tokens);
  if (edit.name !== undefined && taken.has(wanted.toLowerCase()))
    say(part.name, 'name', `There is a campaign “${wanted}” already: give it another name.`);
  const name = edit.name === undefined ? freeName(wanted, taken) : wanted;
  taken.add(name.toLowerCase());
  if (name === '') say(part.name, 'name', 'It needs a name.');
  if (name.length > context.nameCharacters)
    say(part.name, 'name', `Its name has ${name.length} characters, ${context.nameCharacters} are the most.`);
  return name;
}

/** One target, however it is written. */
const targetKey = ({ matchType, expression }: Pick<RunningTarget, 'matchType' | 'expression'>): string =>
  `${matchType ?? ''}\t${normalise(expression)}`;

/** Targets that a part gets, and those of one that stands which went stale. */
function filled(
  { part, edit, state, stands }: KeptPart,
  settings: KitSettings,
  checks: readonly KeywordCheck[],
  product: KitProduct,
  context: KitContext,
  first: (own: Micros | null, text: string | null) => FirstBid,
  say: Say,
): { stale: StaleTarget[]; archives: StaleTarget[]; targets: PlannedTarget[] } {
  const wanted = state === 'fill' ? targetsOf(part, settings, checks, product, context, first) : [];
  if (stands === null) return { stale: [], archives: [], targets: wanted };
  const stale =
    part.kind === 'category'
      ? staleCategories(stands.targets, context.page)
      : staleItems(stands.targets, context.page, context.pages, new Set(context.ownPages));
  const archives = edit.refresh ? stale : [];
  const there = new Set(stands.targets.map(targetKey));
  const gone = new Set(archives.map(({ target }) => target.targetId));
  // A category that is targeted already is not targeted twice, however it is narrowed.
  const categories = new Set(
    stands.targets.flatMap(({ targetId, kind, expression }) =>
      kind === 'category' && !gone.has(targetId) ? [readCategoryTarget(expression).category] : [],
    ),
  );
  const blocking = new NegativeIndex();
  stands.negatives.forEach((negative, at) => blocking.add({ id: String(at), ...negative }));
  const isBlocked = ({ expression }: PlannedTarget) => blocking.blocking(expression)?.expression ?? null;
  const missing = wanted.filter((target) => !there.has(targetKey(target)));
  const blocked = missing.filter((target) => target.targetKind === 'keyword' && isBlocked(target) !== null);
  if (blocked.length > 0)
    say(
      part.name,
      'keywords',
      `${counted(blocked.length, 'keyword')} would never be shown in ${stands.name} and ${blocked.length === 1 ? 'stays' : 'stay'} out: ` +
        `“${blocked[0]!.expression}” is blocked by its negative “${isBlocked(blocked[0]!)}”.`,
      false,
    );
  const targets = missing
    .filter(
      (target) =>
        !blocked.includes(target) &&
        (target.targetKind !== 'category' || !categories.has(readCategoryTarget(target.expression).category)),
    )
    .map((target) => withOldBid(target, archives));
  if (part.kind === 'items' && part.source === 'kit')
    targets.push(
      ...followers(archives.length, [...there, ...targets.map(targetKey)], product, context, first),
    );
  return { stale, archives, targets };
}

/** Pages in the place of those that went stale: as many of those suggested, won most easily first. */
function followers(
  count: number,
  there: readonly string[],
  { itemCode: own }: KitProduct,
  { suggested, page, ownPages }: KitContext,
  first: (own: Micros | null, text: string | null) => FirstBid,
): PlannedTarget[] {
  const known = new Set(there);
  const no = new Set([own, ...ownPages]);
  return suggested
    .map((one) => ({ one, standing: standingOf(one, page) }))
    .filter(
      ({ one, standing }) =>
        !no.has(one.itemCode) &&
        !known.has(targetKey({ matchType: null, expression: one.itemCode })) &&
        (standing.dearer > 0 || standing.worse > 0),
    )
    .sort((a, b) => byStanding(a.standing, b.standing))
    .slice(0, count)
    .map(({ one: { itemCode, title }, standing }): PlannedTarget => {
      const { bid, why } = first(null, itemCode);
      const target = { targetKind: 'item', matchType: null, expression: itemCode } as const;
      return { ...target, bid, why: `${title}: ${standing.why}. ${why}` };
    });
}

/** A category that is narrowed anew keeps the bid of the one that it follows. */
function withOldBid(target: PlannedTarget, archives: readonly StaleTarget[]): PlannedTarget {
  if (target.targetKind !== 'category') return target;
  const { category } = readCategoryTarget(target.expression);
  const old = archives.find(({ target: one }) => readCategoryTarget(one.expression).category === category);
  return old?.target.bid == null
    ? target
    : { ...target, bid: old.target.bid, why: `As “${old.target.expression}” had it.` };
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
    const chosen = settings.categories.length > 0 ? settings.categories : ownCategory(context.page);
    const expressions = new Set(chosen.flatMap((category) => categoryTarget(category, context.page) ?? []));
    return [...expressions].map((expression) => ({
      targetKind: 'category',
      matchType: null,
      expression,
      ...first(null, null),
    }));
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

/** Bids of what a part has and gets, micros. */
const bidsOf = (targets: readonly PlannedTarget[], stands: RunningAdGroup | null): Micros[] => [
  ...targets.map(({ bid }) => bid),
  ...(stands?.targets ?? []).flatMap(({ status, bid }) =>
    status === 'enabled' && bid !== null ? [bid] : [],
  ),
];

/** Mean bid of what a part would bid on; the default bid while that is nothing. */
const expectedCpc = (bids: readonly Micros[], defaultBid: Micros): Micros =>
  bids.length === 0 ? defaultBid : bids.reduce((sum, bid) => sum + bid, 0) / bids.length;

/** How much a plan makes, and what its new campaigns spend a day at most. */
export const planTotals = ({ parts }: Plan) => ({
  campaigns: parts.filter(({ stands }) => stands === null).length,
  standing: parts.filter(({ stands }) => stands !== null).length,
  targets: parts.reduce((sum, { targets }) => sum + targets.length, 0),
  negatives: parts.reduce((sum, { negatives }) => sum + negatives.length, 0),
  archives: parts.reduce((sum, { archives }) => sum + archives.length, 0),
  dailyBudget: parts.reduce((sum, { stands, dailyBudget }) => sum + (stands ? 0 : dailyBudget), 0),
});

/** Whether a part is made, gets something, or stays as it stands. */
export function changeOf({
  stands,
  targets,
  negatives,
  archives,
  budget,
}: PlannedPart): 'new' | 'changed' | 'same' {
  if (stands === null) return 'new';
  const isSame =
    targets.length + negatives.length + archives.length === 0 && (stands.dailyBudget ?? budget) === budget;
  return isSame ? 'same' : 'changed';
}
