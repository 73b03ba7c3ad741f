import { expect, test } from 'vitest';
import type { BidChange } from './learn-response.ts';
import { usualResponse } from './response.ts';
import { usualShare } from './learn-response.ts';
import { learnResponses } from './model.ts';

type Change = Omit<BidChange, 'overlap'> & { campaignId: string; sku: string };

/** Bids doubled: `after` clicks where 100 were. */
const changes = (campaignId: string, count: number, after: number): Change[] =>
  Array.from({ length: count }, () => ({
    campaignId,
    sku: campaignId === 'other' ? 'JAR' : 'LID',
    ratio: 2,
    paid: 0.7,
    before: { days: 7, clicks: 100, spend: 50e6 },
    after: { days: 7, clicks: after, spend: after * 0.7e6 },
    untouched: { before: 0, after: 0, apart: 0 },
    others: 0,
  }));

const apart = { overlap: 0, products: {} };

test('an account that changed nothing answers as usual', () => {
  expect(learnResponses([], apart)).toEqual({
    response: usualResponse,
    responses: {},
    substitution: { ...apart, share: usualShare.mean },
    changes: 0,
  });
});

test('a campaign with a dozen changes of its own leans to them, one with fewer is like what is above', () => {
  const all = [...changes('steep', 20, 250), ...changes('flat', 20, 105), ...changes('other', 11, 250)];
  const { response, responses, changes: count } = learnResponses(all, apart);
  expect(count).toBe(51);
  expect(Object.keys(responses).sort()).toEqual(['flat', 'steep']);
  expect(responses.steep!.clicks).toBeGreaterThan(response.clicks);
  expect(responses.flat!.clicks).toBeLessThan(response.clicks);
  // How elasticities differ between targets is the account's.
  expect(responses.flat).toMatchObject({ slope: response.slope, fade: response.fade, paid: response.paid });
});

test('before an account changed a bid, its own targets are believed to take their part of every raise', () => {
  const { response } = learnResponses([], { overlap: 0.45, products: {} });
  expect(response.clicks).toBeCloseTo(usualResponse.clicks * 0.55);
});
