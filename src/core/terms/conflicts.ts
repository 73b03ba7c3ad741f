import type { Claim } from '../effect/claims.ts';
import type { Judging } from '../evidence/beliefs.ts';
import { negativeLine, statusLine, type LineDraft } from '../changes/lines.ts';
import { gainAgainstTarget } from '../metrics/figures.ts';
import { counted, money } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import type { NegativeType } from '../account/store.ts';
import { pluralForm, variantForm } from '../text/normalise.ts';
import type { AccountMatcher } from './matcher.ts';
import type { TermGround } from './sums.ts';

/** What stands in its own way in the account (domain, section 7.5). */

export const conflictKinds = {
  blocked_keyword: 'A negative blocks an active keyword',
  several_places: 'One term is bid on in several places',
  not_isolated: 'A harvested term is still paid for in research',
  no_product: 'An ad group advertises nothing',
  no_performance: 'A product has no performance target',
} as const;
export type ConflictKind = keyof typeof conflictKinds;

export interface Conflict {
  /** Stable over runs: decisions are kept under it. */
  key: string;
  kind: ConflictKind;
  /** The keyword, item, ad group or product it is about. */
  subject: string;
  sku: string | null;
  sentence: string;
  /** Micros a week, from the window. */
  cost: Micros;
  /** What its repair is worth a week, by the measure of all findings (domain, section 12), micros. */
  worth: Micros;
  /** The clicks that the repair takes elsewhere. */
  claims: Claim[];
  /** What would be done, in words, and the lines that do it; none where only the specialist can. */
  repair: string | null;
  drafts: LineDraft[];
}

/** What conflicts read of the account's table. */
interface ConflictTable extends Judging {
  reader(level: 'targets' | 'ad_groups', name: string): (row: number) => unknown;
  believedRpc(level: 'targets', row: number): number;
}

export interface ConflictGround extends TermGround {
  table: ConflictTable;
  matcher: AccountMatcher;
  /** Days of the window. */
  days: number;
  itemCode: RegExp;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

const quoted = (names: readonly string[]): string =>
  names.length <= 2 ? names.join(' and ') : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`;

/** All conflicts, those that cost most first. */
export function findConflicts(ground: ConflictGround): Conflict[] {
  const served = singleTargets(ground);
  return [
    ...blockedKeywords(ground),
    ...severalPlaces(ground, served),
    ...notIsolated(ground, served),
    ...withoutProduct(ground),
    ...withoutPerformance(ground),
  ].sort((a, b) => b.cost - a.cost || (a.key < b.key ? -1 : 1));
}

/** Live exact keywords and items by product and text, in their variant form. */
function singleTargets({ objects, matcher }: ConflictGround): Map<string, number[]> {
  const found = new Map<string, number[]>();
  objects.targets.forEach(({ kind, matchType, expression, adGroup }, place) => {
    if (!(kind === 'item' || matchType === 'exact') || !matcher.isLive(place)) return;
    const { sku } = objects.adGroups[adGroup]!;
    if (sku === null) return;
    const key = `${sku}\t${variantForm(expression)}`;
    found.set(key, [...(found.get(key) ?? []), place]);
  });
  return found;
}

/** The reason is put in once the whole conflict is said. */
const unsaid = { reason: '' };
const paused = { from: 'enabled', to: 'paused' } as const;

/** All clicks of a target. */
const wholeClaim = (targetId: string, clicks: number, days: number): Claim => ({
  targetId,
  clicks: (clicks / days) * 7,
  part: 1,
});

const weekly = (micros: number, days: number): Micros => Math.round((micros / days) * 7);

/** Window sums of terms by product and variant form, for the texts that are asked for. */
function sumsByText({ objects, pairs, window }: ConflictGround, wanted: ReadonlySet<string>) {
  const sums = new Map<string, { spend: Micros; sales: Micros }>();
  for (let row = 0; row < pairs.target.length; row++) {
    if (window.clicks[row] === 0) continue;
    const { sku } = objects.adGroups[objects.targets[pairs.target[row]!]!.adGroup]!;
    const key = `${sku}\t${variantForm(pairs.texts[pairs.term[row]!]!)}`;
    if (!wanted.has(key)) continue;
    const known = sums.get(key) ?? { spend: 0, sales: 0 };
    known.spend += window.spend[row]!;
    known.sales += window.sales[row]!;
    sums.set(key, known);
  }
  return sums;
}

/** Whether a negative keeps everything from a keyword: a negative exact is only isolation for phrase and broad ones. */
function isShut(
  matchType: string | null,
  negative: { matchType: NegativeType; expression: string },
): boolean {
  if (matchType === 'exact') return true;
  if (negative.matchType !== 'negative_phrase') return false;
  return matchType === 'phrase' || !negative.expression.trim().includes(' ');
}

function blockedKeywords(ground: ConflictGround): Conflict[] {
  const { objects, matcher, table, days } = ground;
  const found: { place: number; blocks: number[]; key: string }[] = [];
  objects.targets.forEach(({ kind, matchType, expression, adGroup }, place) => {
    if (kind !== 'keyword' || !matcher.isLive(place)) return;
    const blocks = matcher
      .blocking(expression)
      .filter((block) => matcher.stands(block, adGroup) && isShut(matchType, objects.negatives[block]!));
    if (blocks.length > 0)
      found.push({ place, blocks, key: `${objects.adGroups[adGroup]!.sku}\t${variantForm(expression)}` });
  });
  const sums = sumsByText(ground, new Set(found.map(({ key }) => key)));
  return found.map(({ place, blocks, key }): Conflict => {
    const target = objects.targets[place]!;
    const { sku, name } = objects.adGroups[target.adGroup]!;
    const elsewhere = sums.get(key) ?? { spend: 0, sales: 0 };
    const gain = gainAgainstTarget(elsewhere, table.goalAt('targets', place).targetAcos);
    const cost = weekly(Math.max(0, gain), days);
    const earns =
      cost > 0
        ? `Elsewhere the term earns ${money(cost)} a week against its goal.`
        : 'Nothing is known of what it would earn.';
    return {
      key: `conflict:blocked:${target.id}`,
      kind: 'blocked_keyword',
      subject: target.expression,
      sku,
      sentence: `${capital(quoted(blocks.map((block) => matcher.nameOfNegative(block))))} keeps the ${target.matchType} keyword in ${name} from its searches. ${earns}`,
      cost,
      // What it would earn is what the term earns elsewhere.
      worth: weekly(
        Math.max(0, table.goalAt('targets', place).theta * elsewhere.sales - elsewhere.spend),
        days,
      ),
      claims: [],
      repair: `Archive ${blocks.length === 1 ? 'the negative' : `${blocks.length} negatives`}`,
      drafts: blocks.map((block) => {
        const { id, campaign, adGroup, matchType, expression } = objects.negatives[block]!;
        const place = {
          campaignId: objects.campaigns[campaign]!.id,
          adGroupId: adGroup === null ? null : objects.adGroups[adGroup]!.id,
        };
        const statuses = { from: 'enabled', to: 'archived' } as const;
        return statusLine('negative', place, id, statuses, unsaid, { matchType, expression });
      }),
    };
  });
}

/** The place that has proven most keeps the term; the others cost what they spend. */
function severalPlaces({ objects, table, days }: ConflictGround, served: Map<string, number[]>): Conflict[] {
  const conflicts: Conflict[] = [];
  for (const [key, all] of served) {
    if (new Set(all.map((place) => objects.targets[place]!.adGroup)).size < 2) continue;
    const figure = (place: number, name: 'orders' | 'spend' | 'clicks') =>
      table.reader('targets', name)(place) as number;
    const places = [...all].sort(
      (a, b) =>
        table.believedRpc('targets', b) - table.believedRpc('targets', a) ||
        figure(b, 'orders') - figure(a, 'orders') ||
        a - b,
    );
    const [best, ...others] = places as [number, ...number[]];
    const nameOf = (place: number) => objects.adGroups[objects.targets[place]!.adGroup]!.name;
    const target = objects.targets[best]!;
    const cost = weekly(
      others.reduce((sum, place) => sum + figure(place, 'spend'), 0),
      days,
    );
    conflicts.push({
      key: `conflict:several:${key}`,
      kind: 'several_places',
      subject: target.expression,
      sku: objects.adGroups[target.adGroup]!.sku,
      sentence: `Bid on in ${quoted(places.map(nameOf))} for one product: its clicks and its evidence are divided. ${nameOf(best)} earns most a click; the others spend ${money(cost)} a week.`,
      cost,
      // Its clicks go to the place that earns most of one.
      worth: others.reduce((sum, place) => {
        const better = table.believedRpc('targets', best) - table.believedRpc('targets', place);
        const gained = table.goalAt('targets', place).theta * Math.max(0, better);
        return sum + weekly(figure(place, 'clicks') * gained, days);
      }, 0),
      claims: others.map((place) => wholeClaim(objects.targets[place]!.id, figure(place, 'clicks'), days)),
      repair: `Pause it in ${quoted(others.map(nameOf))}`,
      drafts: others.map((place) => {
        const { id, adGroup, kind, matchType, expression } = objects.targets[place]!;
        const { id: adGroupId, campaign } = objects.adGroups[adGroup]!;
        const where = { campaignId: objects.campaigns[campaign]!.id, adGroupId };
        return statusLine('target', where, id, paused, unsaid, { targetKind: kind, matchType, expression });
      }),
    });
  }
  return conflicts;
}

interface Leak {
  spend: Micros;
  clicks: number;
  /** Texts by ad group, one for each that a negative exact would have to name. */
  texts: Map<number, Map<string, string>>;
}

function notIsolated(ground: ConflictGround, served: Map<string, number[]>): Conflict[] {
  const { objects, pairs, window, matcher, days, itemCode, table } = ground;
  const leaks = new Map<string, Leak>();
  for (let row = 0; row < pairs.target.length; row++) {
    if (window.clicks[row] === 0) continue;
    const target = objects.targets[pairs.target[row]!]!;
    if (target.kind === 'item' || target.matchType === 'exact' || !matcher.runs(target.adGroup)) continue;
    const text = pairs.texts[pairs.term[row]!]!;
    const key = `${objects.adGroups[target.adGroup]!.sku}\t${variantForm(text)}`;
    if (!served.has(key)) continue;
    // What is blocked by now leaks no more.
    if (matcher.blocking(text).some((block) => matcher.stands(block, target.adGroup))) continue;
    const leak = leaks.get(key) ?? { spend: 0, clicks: 0, texts: new Map() };
    leak.spend += window.spend[row]!;
    leak.clicks += window.clicks[row]!;
    const texts = leak.texts.get(target.adGroup) ?? new Map<string, string>();
    leak.texts.set(target.adGroup, texts.set(pluralForm(text), text));
    leaks.set(key, leak);
  }
  const [clicksOf, spendOf] = (['clicks', 'spend'] as const).map((name) => table.reader('targets', name));
  return [...leaks].map(([key, { spend, clicks, texts }]): Conflict => {
    const serving = served.get(key)![0]!;
    const target = objects.targets[serving]!;
    const [ownClicks, ownSpend] = [clicksOf!(serving) as number, spendOf!(serving) as number];
    // The same clicks cost there what they do there.
    const dearer = ownClicks > 0 ? spend - clicks * (ownSpend / ownClicks) : 0;
    const { sku, name } = objects.adGroups[target.adGroup]!;
    const cost = weekly(spend, days);
    const drafts = [...texts].flatMap(([adGroup, inside]) =>
      [...inside.values()].map((text) => {
        const isItem = itemCode.test(text);
        const { id, campaign } = objects.adGroups[adGroup]!;
        const place = { campaignId: objects.campaigns[campaign]!.id, adGroupId: id };
        const negative = {
          matchType: isItem ? 'negative_item' : 'negative_exact',
          expression: isItem ? text.toUpperCase() : text,
        } as const;
        return negativeLine(place, negative, unsaid);
      }),
    );
    const places = quoted([...texts.keys()].map((adGroup) => objects.adGroups[adGroup]!.name));
    return {
      key: `conflict:leak:${key}`,
      kind: 'not_isolated',
      subject: target.expression,
      sku,
      sentence: `${name} serves it, and ${places} still paid ${money(cost)} a week for it, at the bids of research.`,
      cost,
      worth: weekly(Math.max(0, dearer), days),
      claims: [],
      repair: `Add ${counted(drafts.length, 'negative')} in ${places}`,
      drafts,
    };
  });
}

function withoutProduct({ objects, table, matcher, days }: ConflictGround): Conflict[] {
  const [spendOf, salesOf] = (['spend', 'sales'] as const).map((name) => table.reader('ad_groups', name));
  return objects.adGroups.flatMap(({ id, name, sku, campaign }, place): Conflict[] => {
    if (sku !== null || !matcher.runs(place)) return [];
    const targets = objects.targets.filter(
      ({ adGroup }, target) => adGroup === place && matcher.isLive(target),
    );
    const campaignId = objects.campaigns[campaign]!.id;
    return [
      {
        key: `conflict:no-product:${id}`,
        kind: 'no_product',
        subject: name,
        sku: null,
        sentence: `${name} runs with ${counted(targets.length, 'target')}, and none of its products is advertised: nothing of it can be shown.`,
        cost: weekly((spendOf!(place) as number | null) ?? 0, days),
        worth: weekly(
          Math.max(
            0,
            ((spendOf!(place) as number | null) ?? 0) -
              table.goalAt('ad_groups', place).theta * ((salesOf!(place) as number | null) ?? 0),
          ),
          days,
        ),
        claims: targets.map(({ id: targetId }) => wholeClaim(targetId, 1, days)),
        repair: targets.length > 0 ? `Pause its ${counted(targets.length, 'target')}` : null,
        drafts: targets.map(({ id: objectId, kind, matchType, expression }) =>
          statusLine('target', { campaignId, adGroupId: id }, objectId, paused, unsaid, {
            targetKind: kind,
            matchType,
            expression,
          }),
        ),
      },
    ];
  });
}

function withoutPerformance({ objects, table, matcher, days }: ConflictGround): Conflict[] {
  const performs = new Set<string>();
  const spends = new Map<string, Micros>();
  const spendOf = table.reader('targets', 'spend');
  objects.targets.forEach(({ kind, matchType, adGroup }, place) => {
    const { sku } = objects.adGroups[adGroup]!;
    if (sku === null || !matcher.isLive(place)) return;
    if (kind === 'item' || matchType === 'exact') performs.add(sku);
    else spends.set(sku, (spends.get(sku) ?? 0) + ((spendOf(place) as number | null) ?? 0));
  });
  return [...spends]
    .filter(([sku]) => !performs.has(sku))
    .map(([sku, spend]): Conflict => ({
      key: `conflict:no-performance:${sku}`,
      kind: 'no_performance',
      subject: objects.products.find((product) => product.sku === sku)?.title ?? sku,
      sku,
      sentence: `It is advertised by research only: ${money(weekly(spend, days))} a week, and what sells has nowhere to go.`,
      cost: weekly(spend, days),
      worth: 0,
      claims: [],
      repair: null,
      drafts: [],
    }));
}
