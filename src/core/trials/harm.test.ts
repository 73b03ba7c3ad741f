import { describe, expect, test } from 'vitest';
import { alpha, lookForHarm, spentAlpha, type TrialDay } from './harm.ts';

function seeded(seed: number): () => number {
  let state = (seed * 2_654_435_761) % 2_147_483_647 || 1;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}
function poisson(mean: number, random: () => number): number {
  let [count, left] = [0, random()];
  for (const floor = Math.exp(-mean); left > floor; left *= random()) count++;
  return count;
}
const days = (count: number, expected: number, real: number, random: () => number): TrialDay[] =>
  Array.from({ length: count }, () => ({ orders: poisson(expected * real, random), expected }));

describe('harm', () => {
  test('alpha is spent slowly at first, and all of it at the end', () => {
    expect(spentAlpha(0)).toBe(0);
    expect(spentAlpha(0.25)).toBeLessThan(0.001);
    expect(spentAlpha(0.5)).toBeCloseTo(0.0056, 3);
    expect(spentAlpha(1)).toBeCloseTo(alpha, 6);
    expect(spentAlpha(2)).toBeCloseTo(alpha, 6);
  });

  test('looked at every day, harm that is just borne is claimed in under one trial of twenty', () => {
    let claimed = 0;
    const runs = 600;
    for (let run = 0; run < runs; run++)
      if (lookForHarm(days(28, 4, 0.8, seeded(run + 1)), 28, 0.2, 0).sureOn !== null) claimed++;
    expect(claimed / runs).toBeLessThan(alpha);
  });

  test('half of the orders gone is sure before its time; none gone is never', () => {
    let [found, early, sum] = [0, 0, 0];
    for (let run = 0; run < 100; run++) {
      const { sureOn } = lookForHarm(days(28, 6, 0.4, seeded(run + 7)), 28, 0.2, 0.1);
      if (sureOn !== null) found++;
      if (sureOn !== null && sureOn < 28) early++;
      sum += sureOn ?? 28;
      expect(lookForHarm(days(28, 6, 1, seeded(run + 7)), 28, 0.2, 0.1).sureOn).toBeNull();
    }
    expect(found).toBeGreaterThan(95);
    expect(early).toBeGreaterThan(90);
    expect(sum / 100).toBeLessThan(22);
  });

  test('what is expected with doubt claims less; nothing expected says nothing; days past the plan are not looked at', () => {
    const bad = days(14, 10, 0.5, seeded(3));
    expect(lookForHarm(bad, 14, 0.1, 0).sureOn).not.toBeNull();
    expect(lookForHarm(bad, 14, 0.1, 0.5).sureOn).toBeNull();
    expect(lookForHarm([{ orders: 0, expected: 0 }], 14, 0.1, 0)).toEqual({
      looks: 1,
      ratio: null,
      sureOn: null,
    });
    expect(lookForHarm(days(40, 2, 1, seeded(4)), 14, 0.1, 0).looks).toBe(14);
  });
});
