import { usualResponse } from '../../src/core/effect/response.ts';
import { runningOn } from '../../src/core/account/running.ts';
import { AccountTable } from '../../src/core/explore/table.ts';
import { termPlaces } from '../../src/core/account/term-places.ts';
import { SumsColumns, type EvidenceColumns, type Objects, type Pairs } from '../../src/core/account/store.ts';
import { AccountMatcher } from '../../src/core/terms/matcher.ts';
import type { NegativeType } from '../../src/core/account/store.ts';

/** A small account in memory, told in the words of the job: an ad group a campaign, terms by what caught them. */

export interface GroupTold {
  name: string;
  sku: string | null;
  /** The targets: "broad airlock lids", "item QY000001", "automatic close terms". */
  targets: string[];
  negatives?: string[];
  status?: string;
  modifier?: number;
  /** Negatives of the campaign. */
  campaignNegatives?: string[];
}

export interface TermTold {
  /** Which target caught it: "Lids broad: airlock lids". */
  by: string;
  term: string;
  clicks: number;
  orders?: number;
  /** Clicks and orders in the comparison window. */
  before?: number;
  firstSeen?: string;
  lastSeen?: string;
}

const readTarget = (text: string): { kind: string; matchType: string | null; expression: string } => {
  const [type = '', ...words] = text.split(' ');
  const expression = words.join(' ');
  return ['broad', 'phrase', 'exact'].includes(type)
    ? { kind: 'keyword', matchType: type, expression }
    : { kind: type, matchType: null, expression };
};

const price = 20_000_000;
const cpc = 400_000;

/** A click costs 0.40, an order brings 20.00, the goal is 30 %; the window has 28 days. */
export function exampleAccount(groups: readonly GroupTold[], terms: readonly TermTold[]) {
  const objects: Objects = {
    budgetGroups: [],
    products: [...new Set(groups.map(({ sku }) => sku))]
      .filter((sku) => sku !== null)
      .map((sku) => ({ sku, title: `${sku} for wide jars`, price, margin: 0.5, stock: 100 })),
    campaigns: groups.map(({ name, targets, status }, i) => ({
      id: `c${i + 1}`,
      name,
      kind: targets.some((one) => one.startsWith('automatic')) ? 'automatic' : 'manual',
      status: status ?? 'enabled',
      fields: {},
      strategy: null,
      budgetGroup: null,
      endDate: null,
    })),
    adGroups: groups.map(({ name, sku }, i) => ({
      id: String(i + 1),
      campaign: i,
      name,
      status: 'enabled',
      sku,
      fields: {},
    })),
    placements: groups.flatMap(({ modifier }, campaign) =>
      modifier === undefined ? [] : [{ campaign, placement: 'top_of_search', modifier }],
    ),
    targets: [],
    negatives: [],
  };
  const placeOf = new Map<string, number>();
  groups.forEach(({ name, targets, negatives = [], campaignNegatives = [] }, adGroup) => {
    for (const text of targets) {
      const target = readTarget(text);
      placeOf.set(`${name}: ${target.expression}`, objects.targets.length);
      objects.targets.push({
        id: String(objects.targets.length + 1),
        adGroup,
        ...target,
        bid: 500_000,
        status: 'enabled',
        changedOn: null,
        bidBefore: null,
        firstSeen: null,
        lastSeen: null,
      });
    }
    const block = (text: string, inCampaign: boolean) => {
      const { kind, matchType, expression } = readTarget(text);
      objects.negatives.push({
        id: `n${objects.negatives.length + 1}`,
        campaign: adGroup,
        adGroup: inCampaign ? null : adGroup,
        matchType: `negative_${matchType ?? kind}` as NegativeType,
        expression,
        status: 'enabled',
      });
    };
    for (const text of negatives) block(text, false);
    for (const text of campaignNegatives) block(text, true);
  });
  const texts = [...new Set(terms.map(({ term }) => term))];
  const of = {
    target: Int32Array.from(terms, ({ by }) => {
      const place = placeOf.get(by);
      if (place === undefined) throw new Error(`no target "${by}"`);
      return place;
    }),
    term: Int32Array.from(terms, ({ term }) => texts.indexOf(term)),
  };
  const pairs: Pairs = {
    ...of,
    texts,
    places: termPlaces(objects, of),
    termIds: texts.map((_, at) => at),
    firstSeen: terms.map(({ firstSeen }) => firstSeen ?? '2026-09-01'),
    lastSeen: terms.map(({ lastSeen }) => lastSeen ?? '2026-11-16'),
  };
  const sums = (
    clicksOf: (term: TermTold) => number,
    ordersOf: (term: TermTold) => number,
    rows: number,
    at: (i: number) => number,
  ) => {
    const made = new SumsColumns(rows);
    terms.forEach((term, i) => {
      const [clicks, orders] = [clicksOf(term), ordersOf(term)];
      made.addTo(at(i), [clicks * 20, clicks, clicks * cpc, orders, orders, orders * price]);
    });
    return made;
  };
  const clicks = ({ clicks: n }: TermTold) => n;
  const orders = ({ orders: n }: TermTold) => n ?? 0;
  const window = sums(clicks, orders, terms.length, (i) => i);
  const ofTargets = sums(clicks, orders, objects.targets.length, (i) => pairs.target[i]!);
  const comparison = sums(
    ({ before }) => before ?? 0,
    () => 0,
    terms.length,
    (i) => i,
  );
  const evidenceOf = (seen: SumsColumns): EvidenceColumns => ({ n: seen.clicks, y: seen.orders, seen });
  const evidence = { targets: evidenceOf(ofTargets), pairs: evidenceOf(window), placements: null };
  const frame = {
    targets: ofTargets,
    highestCpc: new Float64Array(objects.targets.length),
    pairs: window,
    pairsHighestCpc: null,
    placements: null,
    totalSales: null,
  };
  const table = new AccountTable({
    today: '2026-11-21',
    objects,
    pairs,
    goals: [{ scope: 'account', key: '', targetAcos: 0.3, bidFloor: null, bidCeiling: null, theta: 0.5 }],
    frames: new Map([['', frame]]),
    evidence,
    model: { response: usualResponse, responses: {}, drift: 0, valueWeight: 3, words: new Map() },
  });
  return {
    table,
    objects,
    pairs,
    window,
    terms: window,
    targets: ofTargets,
    comparison,
    evidence: evidence.pairs,
    matcher: new AccountMatcher(objects, runningOn(objects, '2026-11-21')),
    runs: runningOn(objects, '2026-11-21'),
  };
}
