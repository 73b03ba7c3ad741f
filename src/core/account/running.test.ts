import { describe, expect, test } from 'vitest';
import { exampleAccount } from '../../../tests/support/account.ts';
import { AccountMatcher } from '../terms/matcher.ts';
import { coverageOf } from '../terms/coverage.ts';
import { laneAdGroups } from '../lanes/ad-groups.ts';
import { servedReader } from '../terms/relations.ts';
import { runningOn } from './running.ts';

const { objects, pairs, window } = exampleAccount(
  [
    { name: 'Lids broad', sku: 'LID', targets: ['broad lids'] },
    { name: 'Lids exact', sku: 'LID', targets: ['exact airlock lids'] },
    { name: 'Lids paused', sku: 'LID', targets: ['exact old lids'], status: 'paused' },
  ],
  [
    { by: 'Lids broad: lids', term: 'airlock lids', clicks: 9 },
    { by: 'Lids broad: lids', term: 'airlock lid', clicks: 3 },
  ],
);
const ending = (endDate: string | null) => ({
  ...objects,
  campaigns: objects.campaigns.map((campaign, i) => (i === 1 ? { ...campaign, endDate } : campaign)),
});

describe('a campaign that ended', () => {
  const ended = ending('2026-11-20');

  test('runs on its last day, and on none after it', () => {
    expect(runningOn(ended, '2026-11-20').target(1)).toBe(true);
    const after = runningOn(ended, '2026-11-21');
    expect([after.campaign(1), after.adGroup(1), after.target(1)]).toEqual([false, false, false]);
    expect([after.campaign(0), after.adGroup(0), after.target(0)]).toEqual([true, true, true]);
    expect(runningOn(ending(null), '2026-11-21').target(1)).toBe(true);
  });

  test('says why it does not run, as what is paused does', () => {
    const runs = runningOn(ended, '2026-11-21');
    expect([0, 1, 2].map((target) => runs.stopped(target))).toEqual([
      null,
      'its campaign ended on 2026-11-20',
      'its campaign is paused',
    ]);
  });

  test('serves nothing, leads nowhere, and is not shown', () => {
    const runs = runningOn(ended, '2026-11-21');
    expect(servedReader(ended, runs, pairs, () => 'LID')(0)).toBeNull();
    expect(laneAdGroups(ended, runs).get('2')!.enabled).toBe(false);
    const ground = { objects: ended, pairs, window, matcher: new AccountMatcher(ended, runs) };
    const { catchers } = coverageOf(ground, 'airlock lids');
    expect(catchers.find(({ adGroup }) => adGroup === 'Lids exact')!.reason).toBe(
      'Not shown: its campaign ended on 2026-11-20.',
    );
  });
});

test('a term is served by these very words, or by a close variant, told as that', () => {
  const served = servedReader(objects, runningOn(objects, '2026-11-21'), pairs, () => 'LID');
  expect([served(0), served(1)]).toEqual(['exact in Lids exact', 'exact in Lids exact, as a close variant']);
});
