import { describe, expect, test } from 'vitest';
import type { Scenario } from '../scenario.ts';
import type { Structure, Target } from './account.ts';
import { changedByHand } from './hands.ts';

const target = (id: string, status: Target['status'] = 'enabled'): [string, Target] => [
  id,
  { id, adGroupId: 'g', kind: 'keyword', matchType: 'exact', expression: id, bid: 0.5, status },
];
const structure = {
  targets: new Map([target('a'), target('b'), target('c', 'paused')]),
} as unknown as Structure;
const scenario = (more: Partial<Scenario>) => ({ seed: 7, ...more }) as Scenario;
const days = Array.from({ length: 200 }, (_, i) =>
  new Date(Date.parse('2026-06-01') + i * 864e5).toISOString().slice(0, 10),
);

describe('bids that somebody changes at the marketplace', () => {
  test('about as often as the scenario says, each another bid of one enabled target', () => {
    const changed = days.flatMap((day) => changedByHand(scenario({ hands: 0.25 }), structure, day));
    expect(changed.length).toBeGreaterThan(30);
    expect(changed.length).toBeLessThan(70);
    for (const { id, bid } of changed) {
      expect(['a', 'b']).toContain(id);
      expect(bid).not.toBe(0.5);
      expect(Math.round(bid * 100) / 100).toBe(bid);
      expect(bid).toBeGreaterThanOrEqual(0.3);
      expect(bid).toBeLessThanOrEqual(0.8);
    }
    expect(days.flatMap((day) => changedByHand(scenario({ hands: 0.25 }), structure, day))).toEqual(changed);
  });

  test('never where the scenario does not say so, nor before things move', () => {
    expect(days.flatMap((day) => changedByHand(scenario({}), structure, day))).toEqual([]);
    const late = scenario({ hands: 1, movesFrom: '2026-07-01' });
    expect(changedByHand(late, structure, '2026-06-30')).toEqual([]);
    expect(changedByHand(late, structure, '2026-07-01')).toHaveLength(1);
  });
});
