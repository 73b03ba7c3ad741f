import type { AdGroupInfo, Evidence, LaneCounts, TargetRow } from '../account/rows.ts';
import { defaultGuards } from '../bids/guards.ts';
import { usualResponse } from '../effect/response.ts';
import { micros } from '../metrics/money.ts';
import { addCounts, addEvidence, isOlder } from './judge.ts';
import type { Caught, TermInAdGroup } from './terms.ts';
import type { JudgeInput } from './types.ts';

/** A small account: one product with a broad research and an exact ad group, and an automatic one. */
export const adGroup = (id: string, name: string, automatic = false): [string, AdGroupInfo] => [
  id,
  {
    adGroupId: id,
    name,
    campaignId: `c${id}`,
    campaign: name,
    automatic,
    sku: 'LID',
    enabled: true,
    archived: false,
    modifier: 1,
  },
];

const evidence = (clicks: number, orders: number, cpc = 0.4) => ({
  impressions: clicks * 50,
  clicks,
  spend: micros(clicks * cpc),
  orders,
  units: orders,
  sales: micros(orders * 20),
  n: clicks,
  y: orders,
  seenClicks: clicks,
  seenOrders: orders,
  seenSpend: micros(clicks * cpc),
  seenSales: micros(orders * 20),
  highestCpc: clicks > 0 ? micros(cpc) : 0,
});

export const target = (
  id: string,
  adGroupId: string,
  matchType: string | null,
  expression: string,
  clicks: number,
  orders: number,
  more: Partial<TargetRow> = {},
): TargetRow => ({
  ...evidence(clicks, orders),
  targetId: id,
  adGroupId,
  kind: matchType === null ? 'automatic' : 'keyword',
  matchType,
  expression,
  bid: micros(0.5),
  enabled: true,
  changedOn: null,
  present: { days: 30, clicks, spend: micros(clicks * 0.4), priced: clicks },
  freshN: 0,
  freshY: 0,
  freshClicks: 0,
  freshSpend: 0,
  ...more,
});

/** What one target caught of one term. */
export interface TermRow extends Evidence {
  targetId: string;
  term: string;
  laneCounts: LaneCounts | null;
}

export const term = (targetId: string, text: string, clicks: number, orders: number): TermRow => ({
  ...evidence(clicks, orders),
  targetId,
  term: text,
  laneCounts: null,
});

const usual: Omit<JudgeInput, 'terms'> = {
  today: '2026-11-21',
  window: { from: '2026-10-18', to: '2026-11-16' },
  evidence: { from: '2026-10-18', to: '2026-11-16' },
  settledDays: 30,
  adGroups: new Map([
    adGroup('1', 'Lids automatic', true),
    adGroup('2', 'Lids broad research'),
    adGroup('3', 'Lids exact'),
    adGroup('4', 'Lids items'),
  ]),
  products: new Map([['LID', { sku: 'LID', title: 'Lids', price: micros(20), margin: 0.5 }]]),
  targets: [
    target('a', '1', null, 'close terms', 200, 18),
    target('b', '2', 'broad', 'airlock lids', 200, 20),
    target('e', '3', 'exact', 'fermenting lids', 120, 14),
    target('i', '4', null, 'QYAAAAAA', 40, 3, { kind: 'item' }),
  ],
  quietTerms: new Map(),
  negatives: [],
  lanes: null,
  goals: [{ scope: 'account', key: '', targetAcos: 0.3, bidFloor: null, bidCeiling: null, theta: 0.5 }],
  guards: defaultGuards,
  limits: { characters: 90, words: 10, pattern: "^[\\p{L}\\p{N} '\\-&.+]+$", itemCode: '^QY[0-9A-Z]{6}$' },
  response: usualResponse,
  drift: 0,
  valueWeight: 3,
};

export const usualTerms: readonly TermRow[] = [
  term('b', 'airlock lids wide mouth', 60, 11),
  term('b', 'canning airlock lids', 40, 0),
  term('b', 'fermenting lids', 30, 6),
  term('b', 'airlock lids 4 pack', 20, 2),
  term('b', 'airlock lids uk', 15, 0),
  term('b', 'cheap airlock lids', 25, 0),
  term('a', 'qy3n8p4c', 30, 5),
  term('a', 'lids blue', 9, 0),
];

/** Terms summed over the targets of an ad group that caught them. */
export function inAdGroups(
  rows: readonly TermRow[],
  { targets, adGroups }: Pick<JudgeInput, 'targets' | 'adGroups'>,
): TermInAdGroup[] {
  const terms = new Map<string, TermInAdGroup & { caught: Caught[] }>();
  for (const row of rows) {
    const target = targets.find(({ targetId }) => targetId === row.targetId);
    const adGroup = target && adGroups.get(target.adGroupId);
    if (!adGroup) continue;
    const { term, clicks, laneCounts } = row;
    const caught = { target, clicks };
    const key = `${adGroup.adGroupId} ${term}`;
    const known = terms.get(key);
    const most = known?.caught.find((one) => one.target === known.target);
    const leads =
      !most ||
      clicks > most.clicks ||
      (clicks === most.clicks && isOlder(row.targetId, most.target.targetId));
    terms.set(key, {
      term,
      adGroup,
      evidence: known ? addEvidence(known.evidence, row) : row,
      target: leads ? target : known!.target,
      caught: [...(known?.caught ?? []), caught],
      alsoFrom: [],
      laneCounts: known ? addCounts(known.laneCounts, laneCounts) : laneCounts,
    });
  }
  return [...terms.values()];
}

export function account({
  terms = usualTerms,
  ...values
}: Partial<Omit<JudgeInput, 'terms'>> & { terms?: readonly TermRow[] } = {}): JudgeInput {
  const input = { ...usual, ...values };
  return { ...input, terms: inAdGroups(terms, input) };
}
