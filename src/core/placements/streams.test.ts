import { describe, expect, test } from 'vitest';
import { defaultGuards } from '../bids/guards.ts';
import { usualResponse } from '../effect/response.ts';
import type { StructureCampaign, StructureTarget } from '../structure/ground.ts';
import { sentenceOfPlacements, workingOfPlacements } from './explain.ts';
import { placedRows, type PlacementFigures, type PlacementGround } from './findings.ts';
import { placementDrafts, scaledBid } from './lines.ts';
import { overall } from './overall.ts';
import { placementGuards } from './propose.ts';
import { placementQueueRow } from './queue.ts';
import { streamsOf } from './streams.ts';

const guards = { ...placementGuards, maximumModifier: 600 };
const today = '2026-11-16';

describe('streams', () => {
  const guardsOff = { ...defaultGuards, floor: 30_000 };
  const target = (id: string, kind: string, expression: string): StructureTarget =>
    ({
      row: { targetId: id, adGroupId: 'g', kind, matchType: null, expression, bid: 1_000_000 },
      belief: { gamma: { shape: 100, rate: 1000 }, value: 25_000_000, cpc: 600_000 },
      clicks: 50,
      spend: 30_000_000,
      value: 25_000_000,
      earns: 2_500_000,
      cpc: 600_000,
      targetAcos: 0.25,
      theta: 0.4,
    }) as unknown as StructureTarget;
  const built = (campaignId: string, targets: StructureTarget[]): StructureCampaign => ({
    campaignId,
    name: campaignId,
    kind: 'manual',
    strategy: 'fixed',
    modifiers: {},
    schedule: null,
    dailyBudget: null,
    endDate: null,
    shown: 1,
    adGroups: [
      {
        adGroupId: 'g',
        name: 'g',
        sku: 'A',
        skus: ['A'],
        defaultBid: 500_000,
        modifier: 1,
        sells: [],
        rule: null,
        targets,
        guards: guardsOff,
        negatives: [],
      },
    ],
  });
  const figures = (placed: [string, number, number][]): PlacementFigures[] =>
    placed.map(([placement, clicks, orders]) => ({
      placement,
      n: clicks,
      y: orders,
      seenClicks: clicks,
      seenOrders: orders,
      sums: {
        impressions: clicks * 50,
        clicks: clicks / 3,
        spend: clicks * 200_000,
        orders: orders / 3,
        units: orders / 3,
        sales: orders * 8_000_000,
      },
      present: { clicks: clicks / 3, spend: clicks * 200_000, days: 30 },
    }));
  const campaigns = [
    built('keywords', [target('1', 'keyword', 'lid')]),
    built('items', [target('2', 'item', 'QY000001')]),
    built('auto', [target('3', 'automatic', 'close terms'), target('4', 'automatic', 'similar items')]),
  ];
  const known = new Map([
    [
      'keywords',
      figures([
        ['top_of_search', 3000, 450],
        ['rest_of_search', 3000, 150],
      ]),
    ],
    [
      'items',
      figures([
        ['product_pages', 3000, 150],
        ['category_browse', 3000, 60],
      ]),
    ],
    [
      'auto',
      figures([
        ['top_of_search', 3000, 450],
        ['rest_of_search', 3000, 150],
        ['product_pages', 3000, 60],
      ]),
    ],
  ]);
  const ground: PlacementGround = {
    today,
    campaigns,
    figures: known,
    changedOn: new Map(),
    guards,
    response: usualResponse,
  };

  test('what keywords and items reach is told by campaigns of one kind; else all is one', () => {
    const streamOf = streamsOf(campaigns, known);
    expect(['top_of_search', 'rest_of_search', 'product_pages', 'category_browse'].map(streamOf)).toEqual([
      'terms',
      'terms',
      'items',
      'items',
    ]);
    expect(streamsOf(campaigns.slice(1), known)('top_of_search')).toBe('all');
    const mixed = new Map([
      ...known,
      [
        'keywords',
        figures([
          ['top_of_search', 500, 50],
          ['product_pages', 500, 50],
        ]),
      ],
    ]);
    expect(streamsOf(campaigns, mixed)('product_pages')).toBe('all');
  });

  test('bids part searches from pages already: modifiers move only within each', () => {
    const auto = placedRows(ground).find(({ campaignId }) => campaignId === 'auto')!;
    // Top sells three times the rest; 0.7 of that, in logarithms, is its own.
    const top = auto.placements.find(({ placement }) => placement === 'top_of_search')!;
    expect(top.inStream).toBeCloseTo(1.5, 1);
    expect(top.own).toBeCloseTo((2 * 1.5 ** 0.7) / (1.5 ** 0.7 + 0.5 ** 0.7), 1);
    expect(auto.isFinding).toBe(true);
    expect(auto.proposal!.bids.map((one) => one.stream)).toEqual(['terms']);
    // Beside the whole campaign pages sell less; beside what items reach, they are all there is.
    const pages = auto.placements.find(({ placement }) => placement === 'product_pages')!;
    expect([pages.factor < 0.5, pages.inStream, pages.own]).toEqual([true, 1, 1]);
    const drafts = placementDrafts(campaigns[2]!, auto.proposal!, { reason: 'why', effect: null });
    // 3 ^ 0.7 - 1 = 116 %, of which 100 points at once; M' = (2 + 1) / 2: bids on terms × 0.67.
    expect(drafts.map(({ entity, field, objectId }) => [entity, field, objectId])).toEqual([
      ['placement_modifier', 'top_of_search', 'auto'],
      ['target', 'bid', '3'],
    ]);
    expect(drafts[0]!.newValue).toBe('100');
    expect(drafts[1]!.newValue).toBe('670000');
    expect(auto.proposal!.held).toEqual(['largest step']);
    expect(new Set(drafts.map(({ harvest }) => harvest))).toEqual(new Set(['placements:auto']));
  });

  test('the sentence and the working name what comes out; figures over all add up', () => {
    const rows = placedRows(ground);
    const [first] = rows;
    expect(sentenceOfPlacements(first!)).toMatch(/A click on top of search sells 2\.\d+ times the mean/);
    const working = workingOfPlacements(first!);
    expect(working.some(({ name }) => name === 'Modifier of top of search')).toBe(true);
    const [all] = overall(rows, () => 'all');
    expect(all!.campaigns).toBe(3);
    expect(all!.placements.reduce((sum, { spendShare }) => sum + spendShare, 0)).toBeCloseTo(1, 9);
    expect(all!.best).toBe('top_of_search');
    expect(placementQueueRow(first!)).toMatchObject({ queue: 'placements', worth: first!.proposal!.worth });
  });

  test('a bid keeps to floor and ceiling, and never moves the other way for them', () => {
    expect(scaledBid(50_000, 0.5, { ...guardsOff, floor: 40_000 })).toBe(40_000);
    expect(scaledBid(30_000, 0.5, { ...guardsOff, floor: 40_000 })).toBe(30_000);
    expect(scaledBid(900_000, 1.5, { ...guardsOff, ceiling: 1_000_000 })).toBe(1_000_000);
  });
});
