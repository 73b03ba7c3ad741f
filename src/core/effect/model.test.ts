import { expect, test } from 'vitest';
import type { BidChange } from './response.ts';
import { usualResponse } from './response.ts';
import { learnResponses } from './model.ts';

/** Bids doubled: `after` clicks where 100 were. */
const changes = (campaignId: string, count: number, after: number): (BidChange & { campaignId: string })[] =>
  Array.from({ length: count }, () => ({
    campaignId,
    ratio: 2,
    paid: 0.7,
    before: { days: 7, clicks: 100, spend: 50e6 },
    after: { days: 7, clicks: after, spend: after * 0.7e6 },
    trend: 1,
  }));

const skuOf = (campaignId: string) => (campaignId === 'other' ? 'JAR' : 'LID');

test('an account that changed nothing answers as usual', () => {
  expect(learnResponses([], skuOf)).toEqual({ response: usualResponse, responses: {}, changes: 0 });
});

test('a campaign with a dozen changes of its own leans to them, one with fewer is like what is above', () => {
  const all = [...changes('steep', 20, 250), ...changes('flat', 20, 105), ...changes('other', 11, 250)];
  const { response, responses, changes: count } = learnResponses(all, skuOf);
  expect(count).toBe(51);
  expect(Object.keys(responses).sort()).toEqual(['flat', 'steep']);
  expect(responses.steep!.clicks).toBeGreaterThan(response.clicks);
  expect(responses.flat!.clicks).toBeLessThan(response.clicks);
  // How elasticities differ between targets is the account's.
  expect(responses.flat).toMatchObject({ slope: response.slope, fade: response.fade, paid: response.paid });
});
