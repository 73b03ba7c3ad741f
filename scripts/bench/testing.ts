import type { AdGroupInfo, ProductInfo, TargetRow } from '../../src/core/account/rows.ts';
import { defaultGuards } from '../../src/core/bids/guards.ts';
import { usualResponse } from '../../src/core/effect/response.ts';
import { judgeTargets } from '../../src/core/round/judge.ts';
import type { TargetsInput } from '../../src/core/round/types.ts';
import type { Measure } from './measure.ts';

const targetCount = 200_000;
const groupCount = 4000;

/** 200,000 targets of which a third is quiet and a tenth rests. */
function largeInput(): TargetsInput {
  const adGroups = new Map<string, AdGroupInfo>();
  const products = new Map<string, ProductInfo>();
  for (let group = 0; group < groupCount; group++) {
    const id = String(group);
    const sku = `P${group % 500}`;
    adGroups.set(id, {
      adGroupId: id,
      name: id,
      campaignId: id,
      campaign: id,
      automatic: false,
      sku,
      enabled: true,
      archived: false,
      modifier: 1.1,
    });
    products.set(sku, { sku, title: sku, price: 25_000_000, margin: 0.4 });
  }
  const targets = Array.from({ length: targetCount }, (_, i): TargetRow => {
    const [isQuiet, isRested] = [i % 3 === 0, i % 10 === 1];
    const clicks = isRested ? 0 : isQuiet ? i % 2 : 5 + (i % 40);
    const orders = isQuiet || isRested ? 0 : Math.floor((clicks * (i % 7)) / 50);
    const bid = isRested ? 40_000 : 300_000 + (i % 60) * 10_000;
    const spend = clicks * bid * 0.7;
    return {
      targetId: String(i),
      adGroupId: String(Math.floor(i / 50)),
      kind: 'keyword',
      matchType: 'exact',
      expression: `keyword ${i}`,
      bid,
      enabled: true,
      changedOn: null,
      present: { days: 30, clicks, spend, priced: clicks },
      freshN: 0,
      freshY: 0,
      freshClicks: 0,
      freshSpend: 0,
      impressions: isRested ? 0 : isQuiet ? 20 : 800,
      clicks,
      spend,
      orders,
      units: orders,
      sales: orders * 25_000_000,
      n: clicks,
      y: orders,
      seenClicks: clicks,
      seenOrders: orders,
      seenSpend: spend,
      seenSales: orders * 25_000_000,
      highestCpc: bid,
    };
  });
  const window = { from: '2026-10-18', to: '2026-11-16' };
  return {
    today: '2026-11-21',
    window,
    evidence: window,
    settledDays: 30,
    adGroups,
    products,
    targets,
    negatives: [],
    lanes: [],
    goals: [{ scope: 'account', key: '', targetAcos: 0.26, theta: 0.4, bidFloor: null, bidCeiling: null }],
    guards: defaultGuards,
    limits: { characters: 90, words: 10, pattern: '.', itemCode: '^Q$' },
    response: usualResponse,
    drift: 0,
    valueWeight: 3,
  };
}

/** What choosing the tests of a week adds to judging 200,000 targets. */
export function testsOfLarge(): Measure[] {
  const input = largeInput();
  const timed = (testing?: TargetsInput['testing']): [number, number] => {
    const start = performance.now();
    const { findings } = judgeTargets({ ...input, ...(testing ? { testing } : {}) }, 10_000);
    return [(performance.now() - start) / 1000, findings.filter(({ working }) => working.test).length];
  };
  timed();
  const [without] = timed();
  const week = (input.targets.reduce((sum, { spend }) => sum + spend, 0) / 30) * 7;
  const [value, tests] = timed({ spend: 0.03 * week, running: new Map() });
  return [
    {
      name: `judge-200k-targets-${tests}-tests`,
      value,
      unit: 's',
      reference: `the same without tests (${without.toFixed(2)} s)`,
      ratio: value / without,
      aim: 'none named',
    },
  ];
}
