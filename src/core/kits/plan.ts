import { daysBetween } from '../metrics/days.ts';
import { counted, money } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { bought, clicksToJudge, splitBudget, wholeCents } from './budget.ts';
import { checkBudgets, checkWhole, emptySaid, type Say } from './checks.ts';
import { creativesOf, missingCreatives } from './creatives.ts';
import { negativesOf } from './funnel.ts';
import type { KeywordCheck } from './keywords.ts';
import { freeName, nameOf, unknownTokens } from './names.ts';
import type { Recipe } from './recipe.ts';
import { recognise, type RunningAdGroup } from './running.ts';
import { filled, firstBids } from './targets.ts';
import type {
  KeptPart,
  KitContext,
  KitProduct,
  KitSettings,
  Plan,
  PlannedPart,
  PlannedTarget,
  PlanProblem,
} from './types.ts';

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

/** The share of the kit's budget that goes to what is made: what stands keeps its own. */
function shareOfMade(kept: readonly KeptPart[]): number {
  const sum = (parts: readonly KeptPart[]) => parts.reduce((all, { part }) => all + part.share, 0);
  return kept.length === 0 ? 1 : sum(kept.filter(({ stands }) => stands === null)) / sum(kept);
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
  const ofMade = shareOfMade(kept);
  const budgets = splitBudget(wholeCents(settings.budget * ofMade), shares);
  checkBudgets(made, budgets, shares, ofMade, settings, context, say);
  const days = budgetDays(settings, context);
  const budgetOf = ({ stands, edit, ...one }: KeptPart): Micros =>
    stands === null
      ? budgets[made.findIndex(({ part }) => part === one.part)]!
      : (edit.budget ?? stands.dailyBudget ?? 0);

  const taken = new Set(context.taken);
  const creatives = creativesOf(settings, context.creatives, say);
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
      creatives:
        stands === null
          ? creatives
          : missingCreatives(creatives, context.shows[stands.adGroupId] ?? [], context.creatives, (text) =>
              say(part.name, 'creatives', text),
            ),
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
  return { product, also, recipe: recipe.name, parts, problems };
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
  creatives,
  archives,
  budget,
}: PlannedPart): 'new' | 'changed' | 'same' {
  if (stands === null) return 'new';
  const isSame =
    targets.length + negatives.length + creatives.length + archives.length === 0 &&
    (stands.dailyBudget ?? budget) === budget;
  return isSame ? 'same' : 'changed';
}
