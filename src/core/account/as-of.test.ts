import { expect, test } from 'vitest';
import { objectsAt, type PastChange, type Played } from './as-of.ts';
import type { Objects, TargetObject } from './store.ts';

const target = (id: string, bid: number, more: Partial<TargetObject> = {}): TargetObject => ({
  id,
  adGroup: 0,
  kind: 'keyword',
  matchType: 'exact',
  expression: id,
  bid,
  status: 'enabled',
  changedOn: null,
  bidBefore: null,
  firstSeen: '2026-09-01',
  lastSeen: '2026-11-20',
  ...more,
});
const objects: Objects = {
  budgetGroups: [],
  products: [],
  campaigns: [
    {
      id: 'c',
      name: 'C',
      kind: 'manual',
      status: 'enabled',
      fields: { daily_budget: 9_000_000 },
      strategy: null,
      budgetGroup: null,
      endDate: null,
    },
  ],
  adGroups: [{ id: 'g', campaign: 0, name: 'G', status: 'enabled', sku: null, fields: {} }],
  targets: [target('1', 300_000), target('2', 500_000), target('3', 700_000, { firstSeen: '2026-11-12' })],
  placements: [{ campaign: 0, placement: 'top', modifier: 50 }],
  negatives: [
    { id: 'n', campaign: 0, adGroup: 0, matchType: 'negative_exact', expression: 'x', status: 'enabled' },
  ],
};
const change = (more: Partial<PastChange>): PastChange => ({
  day: '2026-11-10',
  entity: 'target',
  objectId: '1',
  field: 'bid',
  isMade: false,
  old: '400000',
  ...more,
});

test('what came later is taken back, the last first; what was not there yet does not run', () => {
  const changes = [
    change({ day: '2026-11-05', old: '600000' }),
    change({ day: '2026-11-10', old: '400000' }),
    change({ entity: 'campaign', objectId: 'c', field: 'daily_budget', old: '5000000' }),
    change({ entity: 'placement_modifier', objectId: 'c', field: 'top', old: '0' }),
    change({ entity: 'negative', objectId: 'n', field: 'negative', isMade: true, old: null }),
  ];
  const { objects: then, forces } = objectsAt(objects, changes, [], '2026-11-07');
  expect(then.targets[0]).toMatchObject({ bid: 400_000, changedOn: '2026-11-05', bidBefore: 600_000 });
  expect(then.targets[2]!.status).toBe('paused');
  expect(then.campaigns[0]!.fields.daily_budget).toBe('5000000');
  expect(then.placements[0]!.modifier).toBe(0);
  expect(then.negatives).toEqual([]);
  expect(forces).toEqual([
    { targetId: '1', bid: 600_000, now: 400_000, after: null, until: '2026-11-05' },
    { targetId: '1', bid: 400_000, now: 400_000, after: '2026-11-05', until: null },
  ]);
  // Before both changes, the first bid; the objects themselves stay as they are.
  expect(objectsAt(objects, changes, [], '2026-11-01').objects.targets[0]).toMatchObject({
    bid: 600_000,
    changedOn: null,
  });
  expect(objects.targets[0]!.bid).toBe(300_000);
});

const play = (entity: string, objectId: string, field: string, value: string): Played => ({
  entity,
  objectId,
  field,
  value,
  on: '2026-11-03',
});

test('a bid that was played stands in place of the real one, which its days were paid at', () => {
  const played = [play('target', '2', 'bid', '250000')];
  const { objects: then, forces } = objectsAt(objects, [], played, '2026-11-07');
  expect(then.targets[1]).toMatchObject({ bid: 250_000, changedOn: '2026-11-03', bidBefore: 500_000 });
  expect(forces).toEqual([{ targetId: '2', bid: 500_000, now: 250_000, after: null, until: null }]);
});

test('budgets, modifiers, schedules and default bids that were played stand beside what really stood', () => {
  const bare: Objects = {
    ...objects,
    adGroups: [{ ...objects.adGroups[0]!, fields: { default_bid: 800_000 } }],
    targets: [target('1', 300_000), { ...target('4', 0), bid: null }],
  };
  const changes = [
    change({ day: '2026-11-01', entity: 'campaign', objectId: 'c', field: 'daily_budget', old: '5000000' }),
    change({ day: '2026-11-02', entity: 'placement_modifier', objectId: 'c', field: 'top', old: '20' }),
  ];
  const played = [
    play('campaign', 'c', 'daily_budget', '12000000'),
    play('campaign', 'c', 'schedule', 'sunday 0-23 60'),
    play('placement_modifier', 'c', 'top', '80'),
    play('placement_modifier', 'c', 'product', '30'),
    play('ad_group', 'g', 'default_bid', '400000'),
  ];
  const { objects: then, stood, forces, changedOn, stoodOn } = objectsAt(bare, changes, played, '2026-11-07');
  expect(then.campaigns[0]!.fields).toMatchObject({ daily_budget: '12000000', schedule: 'sunday 0-23 60' });
  expect(stood.campaigns[0]!.fields).toEqual({ daily_budget: 9_000_000 });
  expect(then.placements).toEqual([
    { campaign: 0, placement: 'top', modifier: 80 },
    // One that the marketplace told nothing of yet.
    { campaign: 0, placement: 'product', modifier: 30 },
  ]);
  expect(stood.placements).toEqual(objects.placements);
  // Only what has no bid of its own is moved by its ad group's.
  expect(forces).toEqual([{ targetId: '4', bid: 800_000, now: 400_000, after: null, until: null }]);
  expect(stoodOn.get('campaign:c:daily_budget')).toBe('2026-11-01');
  expect(changedOn.get('campaign:c:daily_budget')).toBe('2026-11-03');
  // Modifiers of a campaign move together.
  expect([stoodOn.get('placements:c'), changedOn.get('placements:c')]).toEqual(['2026-11-02', '2026-11-03']);
});

test('campaigns and ad groups that were made since did not run', () => {
  const changes = [
    change({ entity: 'campaign', objectId: 'c', field: 'campaign', isMade: true, old: null }),
    change({ day: '2026-11-12', entity: 'campaign', objectId: 'c', field: 'status', old: 'enabled' }),
  ];
  expect(objectsAt(objects, changes, [], '2026-11-09').objects.campaigns[0]!.status).toBe('paused');
  expect(objectsAt(objects, changes, [], '2026-11-11').objects.campaigns[0]!.status).toBe('enabled');
});
