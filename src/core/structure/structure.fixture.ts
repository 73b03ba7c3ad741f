import { defaultGuards } from '../bids/guards.ts';
import type { StructureAdGroup, StructureCampaign, StructureGround, StructureTarget } from './ground.ts';

/** Campaigns as structure is judged by them, made for tests. */

let number = 0;
/** A target with so many clicks a week at a CPC of 1.00, earning `earns` a click on a thousand clicks; goal 25 %. */
export function target(
  of: { kind?: StructureTarget['row']['kind']; type?: string | null; text?: string },
  { clicks = 10, earns = 4, orders = 20, impressions = 100, cpc = 1 } = {},
): StructureTarget {
  const id = String(++number);
  const { kind = 'keyword', type = kind === 'keyword' ? 'exact' : null, text = `keyword ${id}` } = of;
  const belief = { gamma: { shape: 100, rate: 1000 }, value: earns * 10e6, cpc: cpc * 1e6 };
  return {
    row: {
      targetId: id,
      kind,
      matchType: type,
      expression: text,
      bid: 1_200_000,
      impressions,
      seenOrders: orders,
      y: orders,
      changedOn: null,
    } as StructureTarget['row'],
    belief,
    value: belief.value,
    clicks,
    spend: clicks * cpc * 1e6,
    earns: earns * 1e6,
    cpc: cpc * 1e6,
    targetAcos: 0.25,
    theta: 0.35,
  };
}

export const adGroup = (
  name: string,
  targets: StructureTarget[],
  more: Partial<StructureAdGroup> = {},
): StructureAdGroup => ({
  adGroupId: `g-${name}`,
  name,
  sku: 'LID',
  skus: ['LID'],
  defaultBid: 900_000,
  modifier: 1,
  rule: null,
  sells: [],
  targets,
  guards: defaultGuards,
  negatives: [],
  ...more,
});

export const campaign = (
  name: string,
  adGroups: StructureAdGroup[],
  more: Partial<StructureCampaign> = {},
): StructureCampaign => ({
  campaignId: `c-${name}`,
  name,
  kind: 'manual',
  strategy: 'down_only',
  modifiers: { top_of_search: 20 },
  schedule: null,
  dailyBudget: 20_000_000,
  endDate: null,
  shown: 1,
  adGroups,
  ...more,
});

export const ground = (
  campaigns: StructureCampaign[],
  more: Partial<StructureGround> = {},
): StructureGround => ({
  today: '2026-11-26',
  days: 30,
  campaigns,
  taken: new Set(campaigns.map(({ name }) => name.toLowerCase())),
  minimumBudget: 2_000_000,
  codes: new Map(),
  seasons: new Map(),
  soldOut: new Set(),
  ...more,
});
