import { counted } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { NegativeIndex } from '../terms/match.ts';
import { normalise } from '../text/normalise.ts';
import { firstBidOf, type FirstBid } from './bids.ts';
import type { Say } from './checks.ts';
import { isUsable, type KeywordCheck } from './keywords.ts';
import {
  byStanding,
  categoryTarget,
  ownCategory,
  readCategoryTarget,
  staleCategories,
  staleItems,
  standingOf,
} from './pages.ts';
import type { Part } from './recipe.ts';
import type { RunningTarget } from './running.ts';
import type {
  KeptPart,
  KitContext,
  KitProduct,
  KitSettings,
  PartEdit,
  PlannedTarget,
  StaleTarget,
} from './types.ts';

/** What a part of a kit aims with: targets that are made, and those that went stale. */

/** One target, however it is written. */
const targetKey = ({ matchType, expression }: Pick<RunningTarget, 'matchType' | 'expression'>): string =>
  `${matchType ?? ''}\t${normalise(expression)}`;

/** Targets that a part gets, and those of one that stands which went stale. */
export function filled(
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
export function firstBids(part: Part, edit: PartEdit, context: KitContext) {
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
