import { describe, expect, test } from 'vitest';
import { exampleAccount, type GroupTold, type TermTold } from '../../../tests/support/account.ts';
import { defaultGuards } from '../bids/guards.ts';
import type { Edit } from './edits.ts';
import { planEdit, whyNotEditable, type EditOrder } from './plan.ts';

/** A click costs 0.40, an order brings 20.00, the goal is 30 %, every bid is 0.50; the window has 28 days. */
const groups: GroupTold[] = [
  { name: 'Lids auto', sku: 'LID', targets: ['automatic close terms'] },
  { name: 'Lids exact', sku: 'LID', targets: ['exact airlock lids', 'exact silicone lids'] },
  { name: 'Jars broad', sku: 'JAR', targets: ['broad jars'], modifier: 50, negatives: ['exact old jars'] },
];
const terms: TermTold[] = [
  { by: 'Lids auto: close terms', term: 'fermenting lids', clicks: 280, orders: 28 },
  { by: 'Lids exact: airlock lids', term: 'airlock lids', clicks: 140, orders: 14 },
  { by: 'Lids exact: silicone lids', term: 'fermenting lids', clicks: 28 },
  { by: 'Jars broad: jars', term: 'old jars', clicks: 14 },
];

function plan(
  level: 'targets' | 'terms' | 'campaigns' | 'placements',
  edit: Edit,
  more: Partial<EditOrder> = {},
) {
  const account = exampleAccount(groups, terms);
  const { table, objects } = account;
  const rows = Int32Array.from({ length: table.count(level) }, (_, row) => row);
  const ground = {
    table,
    objects,
    frame: {
      targets: account.targets,
      highestCpc: new Float64Array(objects.targets.length),
      pairs: account.window,
      pairsHighestCpc: null,
      placements: null,
      totalSales: null,
    },
    today: '2026-11-21',
    days: 28,
  };
  const order: EditOrder = {
    edit,
    keys: null,
    values: null,
    keepGuards: false,
    guards: defaultGuards,
    lanes: null,
    limits: {
      characters: 80,
      words: 10,
      pattern: '.*',
      itemCode: '^QY\\d{6}$',
      bid: defaultGuards,
      minimumBudget: 1_000_000,
      minimumLifetimeBudget: 20_000_000,
      maximumModifier: 900,
      today: '2026-11-21',
    },
    ...more,
  };
  return planEdit(ground, level, rows, order, 2, true);
}

describe('a plan of an edit', () => {
  test('counts all, lists the first, and makes one line for each that changes', () => {
    const { preview, drafts } = plan('targets', { field: 'bid', how: 'percent', value: 0.1 });
    expect(preview).toMatchObject({ changed: 4, unchanged: 0, problems: {} });
    expect(preview.rows).toHaveLength(2);
    expect(preview.rows[0]).toMatchObject({ old: '500000', next: '550000', place: 'Lids auto' });
    expect(drafts).toHaveLength(4);
    expect(drafts[1]).toMatchObject({
      entity: 'target',
      field: 'bid',
      oldValue: '500000',
      newValue: '550000',
      expression: 'airlock lids',
      matchType: 'exact',
      reason: 'Changed by +10 % in Explore. Without guards.',
    });
  });

  test('says what a week would change: of a raise more of both, of none nothing', () => {
    const raised = plan('targets', { field: 'bid', how: 'percent', value: 0.2 }).preview;
    expect(raised.spend).toBeGreaterThan(0);
    expect(raised.sales).toBeGreaterThan(0);
    const cut = plan('targets', { field: 'bid', how: 'percent', value: -0.2 }).preview;
    expect(cut.spend).toBeLessThan(0);
    expect(plan('targets', { field: 'bid', how: 'set', value: 500_000 }).preview).toMatchObject({
      changed: 0,
      unchanged: 4,
      spend: 0,
      sales: 0,
      problems: { 'It is that already.': 4 },
    });
  });

  test('a target answers by what it pays of its own bid: 0.40 of 0.50, e = 1.2 x exp(8 x (0.8 - 0.7)) = 2.67', () => {
    const { table } = exampleAccount(groups, terms);
    expect(table.responseOf(0).clicks).toBeCloseTo(2.671, 3);
    const { spend, sales } = plan(
      'targets',
      { field: 'bid', how: 'percent', value: 0.2 },
      { keys: ['1'] },
    ).preview;
    expect([spend, sales].every((change) => change > 0)).toBe(true);
  });

  test('values of single rows stand for the edit, and only those are changed', () => {
    const { preview, drafts } = plan(
      'targets',
      { field: 'bid', how: 'set', value: 500_000 },
      { values: { '2': 700_000 } },
    );
    expect(preview).toMatchObject({ changed: 1, unchanged: 3 });
    expect(drafts.map(({ expression, newValue }) => [expression, newValue])).toEqual([
      ['airlock lids', '700000'],
    ]);
  });

  test('a negative for a term stands once in a place, and not where one stands already', () => {
    const edit = { field: 'negative', matchType: 'negative_exact', scope: 'ad_group' } as const;
    const { preview, drafts } = plan('terms', edit);
    expect(preview.changed).toBe(3);
    expect(Object.keys(preview.problems)[0]).toMatch(/^Blocked already by negative exact “old jars”/);
    expect(drafts[0]).toMatchObject({
      action: 'create',
      matchType: 'negative_exact',
      expression: 'fermenting lids',
    });
    // Of a whole campaign: each ad group has one here, so the same; its lines name no ad group.
    const whole = plan('terms', { ...edit, scope: 'campaign' });
    expect(whole.drafts.map(({ adGroupId }) => adGroupId)).toEqual([null, null, null]);
  });

  test('a term goes down its lane once, created there and blocked where it was found', () => {
    const { preview, drafts } = plan('terms', { field: 'lane' });
    const sent = drafts.filter(({ entity }) => entity === 'target');
    expect(sent.map(({ expression }) => expression)).toEqual(['fermenting lids']);
    expect(sent[0]).toMatchObject({ adGroupId: '2', matchType: 'exact', targetKind: 'keyword' });
    const blocked = drafts.filter(({ entity }) => entity === 'negative');
    expect(blocked.map(({ adGroupId, expression }) => [adGroupId, expression])).toEqual([
      ['1', 'fermenting lids'],
    ]);
    expect(new Set(drafts.map(({ harvest }) => harvest)).size).toBe(1);
    // What is served there already, and what has no lane, say why they stay.
    expect(preview.unchanged).toBe(3);
    expect(Object.keys(preview.problems).join()).toMatch(/Served already/);
  });

  test('a field of a campaign and a modifier of a placement, each as its entry says', () => {
    const paused = plan('campaigns', { field: 'status', to: 'paused' });
    expect(paused.preview.changed).toBe(3);
    expect(paused.drafts[0]).toMatchObject({
      entity: 'campaign',
      objectId: 'c1',
      field: 'status',
      newValue: 'paused',
    });
    // A value reads as people read it.
    const fixed = plan('campaigns', { field: 'strategy', to: 'up_and_down' });
    expect(fixed.drafts[0]).toMatchObject({
      newValue: 'up_and_down',
      reason: 'Set to up and down in Explore.',
    });
    const modifier = plan('placements', { field: 'modifier', how: 'set', value: 20 });
    expect(modifier.drafts.map(({ entity, oldValue, newValue }) => [entity, oldValue, newValue])).toEqual([
      ['placement_modifier', '50', '20'],
    ]);
  });

  test('what is edited at another level says so', () => {
    expect(whyNotEditable('campaigns', { field: 'lane' })).toBe(
      '“lane” is edited at the level of terms, not of campaigns.',
    );
    expect(whyNotEditable('terms', { field: 'lane' })).toBeNull();
    expect(whyNotEditable('targets', { field: 'bid', how: 'rest' })).toBeNull();
    expect(whyNotEditable('products', { field: 'bid', how: 'rest' })).toMatch(/bid/);
  });
});
