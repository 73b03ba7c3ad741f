import { defaultGuards } from '../bids/guards.ts';
import type { KindEvidence } from './bids.ts';
import type { KeywordCheck, KitKeyword } from './keywords.ts';
import { KeywordChecker } from './keywords.ts';
import type { KitContext, KitProduct, KitSettings } from './types.ts';
import { partKinds, type PartKind } from './recipe.ts';
import type { RunningAdGroup, RunningTarget } from './running.ts';

/** A product with plain figures: 1 order in 10 clicks, 20.00 an order, theta 0.5: a bid of 1.00 where nothing is careful. */
export const evidence: KindEvidence = {
  rate: { shape: 10, rate: 100 },
  value: 20_000_000,
  paidPerBid: 0.8,
  clicks: 400,
};

const ofKinds = <T>(value: T) =>
  Object.fromEntries(partKinds.map((kind) => [kind, value])) as Record<PartKind, T>;

export const product: KitProduct = {
  sku: 'LID',
  itemCode: 'QY2AAAAA',
  title: 'Airlock lids for wide jars',
  code: 'Lids',
  stock: 100,
};

export const context = (more: Partial<KitContext> = {}): KitContext => ({
  theta: 0.5,
  evidence: ofKinds(evidence),
  guards: defaultGuards,
  leastCpc: ofKinds(50_000),
  minimumBudget: { daily: 2_000_000, lifetime: 20_000_000 },
  itemCode: '^QY[0-9A-Z]{6}$',
  targetsPerAdGroup: 1000,
  negativesPerAdGroup: 1000,
  nameCharacters: 120,
  creatives: { pictures: 3, pixels: 800, bytes: 1e6, titles: 2, titleCharacters: 100 },
  lists: [],
  taken: new Set(),
  ranges: new Map(),
  ownPages: ['QY2AAAAA', 'QY2BBBBB'],
  page: { category: 'lids', price: 18_900_000, rating: 4.3 },
  best: 'airlock lids',
  today: '2026-11-26',
  running: [],
  shows: {},
  pages: new Map(),
  season: null,
  suggested: [],
  ...more,
});

export const keywords = (...texts: string[]): KitKeyword[] => texts.map((text) => ({ text, bid: null }));

export const settings = (more: Partial<KitSettings> = {}): KitSettings => ({
  budget: 50_000_000,
  budgetKind: 'daily',
  pacing: 'as_it_comes',
  startDate: null,
  endDate: null,
  startPaused: false,
  keywords: keywords('airlock lids', 'jar lids'),
  items: [{ itemCode: 'QY9ZZZZZ', bid: null }],
  categories: [],
  completes: false,
  pictures: [],
  titles: [],
  leftOut: [],
  lists: [],
  excluded: [],
  edits: {},
  ...more,
});

export const limits = { characters: 90, words: 10, pattern: "^[\\p{L}\\p{N} '\\-&.+]+$" };

export const checked = (
  { keywords: list, excluded }: KitSettings,
  served: { text: string; matchType: string; adGroup: string }[] = [],
): KeywordCheck[] =>
  new KeywordChecker({ limits, title: product.title, proven: [], served, blocking: [] }).check(
    list.map(({ text }) => text),
    excluded,
  );

/** An ad group that runs, of targets as [match type or kind, expression]. */
export const running = (
  adGroupId: string,
  campaign: string,
  targets: readonly [kind: string, expression: string][],
  more: Partial<RunningAdGroup> = {},
): RunningAdGroup => ({
  campaignId: `c${adGroupId}`,
  adGroupId,
  campaign,
  name: campaign,
  status: 'enabled',
  dailyBudget: 8_000_000,
  targets: targets.map(([kind, expression], at) => {
    const isKeyword = ['broad', 'phrase', 'exact'].includes(kind);
    return {
      targetId: `${adGroupId}-${at}`,
      kind: isKeyword ? 'keyword' : (kind as RunningTarget['kind']),
      matchType: isKeyword ? kind : null,
      expression,
      bid: 700_000,
      status: 'enabled',
      clicks: 10,
      orders: 0,
    };
  }),
  negatives: [],
  ...more,
});
