import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { hear, usualLevels, usualRows, type Level } from './hierarchy.ts';
import { addSibling, addSiblings, noSiblings } from './siblings.ts';

type Row = [clicks: number, orders: number];

const rowsOf = (rows: readonly Row[]): Level => {
  const siblings = noSiblings();
  for (const [n, y] of rows) addSibling(siblings, n, y, n, y);
  return { siblings, members: [] };
};

const levelOf = (members: readonly Level[]): Level => {
  const siblings = noSiblings();
  for (const member of members) addSiblings(siblings, member.siblings);
  return { siblings, members };
};

/** Even draws that repeat, and what is made of them. */
function drawing(seed: number) {
  let state = seed;
  const unit = () => (state = (state * 16_807) % 2_147_483_647) / 2_147_483_647;
  const normal = () => Math.sqrt(-2 * Math.log(unit())) * Math.cos(2 * Math.PI * unit());
  const poisson = (mean: number) => {
    let [k, p] = [0, Math.exp(-mean)];
    for (let u = unit(); u > p && k < 1000; k++) {
      u -= p;
      p *= mean / (k + 1);
    }
    return k;
  };
  return { unit, normal, poisson };
}

/** Campaigns of one product with one ad group each: rates differ by `between`, rows around them by `within`, in ln. */
function account(between: number, within: number, seed: number, groups = 30, rows = 30) {
  const { unit, normal, poisson } = drawing(seed);
  const means: number[] = [];
  const campaigns = Array.from({ length: groups }, () => {
    const mean = 0.08 * Math.exp(between * normal() - between ** 2 / 2);
    means.push(mean);
    return levelOf([
      rowsOf(
        Array.from({ length: rows }, (): Row => {
          const clicks = 1 + Math.floor(unit() ** 3 * 120);
          return [clicks, poisson(clicks * mean * Math.exp(within * normal() - within ** 2 / 2))];
        }),
      ),
    ]);
  });
  return { top: levelOf([levelOf(campaigns)]), campaigns, means };
}

describe('means and likeness of all levels', () => {
  test('an account of one row, by hand', () => {
    const leaf = rowsOf([[100, 10]]);
    const { likeness, means } = hear(levelOf([levelOf([levelOf([leaf])])]));
    // Nothing tells how alike anything is: as before, but for one row that is no different from itself.
    for (const shape of likeness.levels) expect(Math.log(shape / usualLevels)).toBeCloseTo(0, 0);
    const said = means.get(leaf)!;
    const b = likeness.rows / 0.1;
    expect(said.mu).toBeCloseTo(0.1, 6);
    expect(said.telling).toBeCloseTo((100 * b) / (100 + b), 6);
    expect(said.sold).toBeCloseTo(said.telling * 0.1, 6);
  });

  test('ad groups that differ with rows alike in them are told from rows that differ', () => {
    for (const seed of [5, 55, 555]) {
      const apart = hear(account(0.5, 0.1, seed).top).likeness;
      const mixed = hear(account(0.1, 0.5, seed).top).likeness;
      // Shapes 1 / (exp(s^2) - 1): 3.5 for 0.5, 99 for 0.1. One ad group a campaign: both levels share what differs.
      expect(apart.rows).toBeGreaterThan(15);
      expect(mixed.rows).toBeGreaterThan(2.4);
      expect(mixed.rows).toBeLessThan(7);
      expect(Math.min(...apart.levels.slice(1))).toBeLessThan(9);
      expect(Math.min(...mixed.levels.slice(1))).toBeGreaterThan(9);
    }
  });

  test('means are nearer to the truth than each one’s own, and than all taken for one', () => {
    const error = (said: readonly number[], truth: readonly number[]) =>
      said.reduce((sum, mu, i) => sum + Math.log(mu / truth[i]!) ** 2, 0);
    let [heard, own, one] = [0, 0, 0];
    for (let seed = 1; seed <= 10; seed++) {
      const { top, campaigns, means: truth } = account(0.3, 0.5, seed * 77, 20, 12);
      const { means } = hear(top);
      const { n, y } = top.siblings;
      heard += error(
        campaigns.map((campaign) => means.get(campaign.members[0]!)!.mu),
        truth,
      );
      own += error(
        campaigns.map(({ siblings }) => Math.max(0.5, siblings.y) / siblings.n),
        truth,
      );
      one += error(
        truth.map(() => y / n),
        truth,
      );
    }
    expect(heard).toBeLessThan(0.85 * own);
    expect(heard).toBeLessThan(0.85 * one);
  });

  test('the doubt about a mean is as large as its errors are', () => {
    let [squares, said, count] = [0, 0, 0];
    for (let seed = 1; seed <= 20; seed++) {
      const { top, campaigns, means: truth } = account(0.3, 0.5, seed * 991, 20, 12);
      const { means } = hear(top);
      campaigns.forEach((campaign, i) => {
        const { mu, doubt } = means.get(campaign.members[0]!)!;
        squares += (mu / truth[i]! - 1) ** 2;
        said += doubt;
        count++;
      });
    }
    expect(squares / said).toBeGreaterThan(0.6);
    expect(squares / said).toBeLessThan(1.5);
    expect(count).toBe(400);
  });

  test('weighted counts: means follow what came of late', () => {
    const siblings = noSiblings();
    // Sold 10 in 100 clicks over all days, and as much in the 50 that still count: twice as well.
    for (let i = 0; i < 50; i++) addSibling(siblings, 50, 10, 100, 10);
    const leaf: Level = { siblings, members: [] };
    expect(hear(levelOf([levelOf([levelOf([leaf])])])).means.get(leaf)!.mu).toBeCloseTo(0.2, 6);
  });

  test('accounts without orders, without clicks, of nothing', () => {
    for (const rows of [[], [[40, 0]], Array.from({ length: 500 }, (): Row => [3, 0])] as Row[][]) {
      const leaf = rowsOf(rows);
      const { likeness, means } = hear(levelOf([levelOf([levelOf([leaf])])]));
      const { mu, doubt } = means.get(leaf)!;
      expect(mu).toBeGreaterThan(0);
      expect(mu).toBeLessThan(0.06);
      expect(doubt).toBeGreaterThan(0);
      expect(Number.isFinite(doubt)).toBe(true);
      expect(likeness.rows).toBeGreaterThan(0.5 * usualRows);
    }
    expect(hear({ siblings: noSiblings(), members: [] }).likeness.rows).toBeCloseTo(usualRows, 1);
  });

  test('every mean lies between its own and the one above', () => {
    const rows = fc.array(
      fc.tuple(fc.integer({ min: 1, max: 300 }), fc.nat(40)).map(([n, y]): Row => [n, Math.min(n, y)]),
      { minLength: 1, maxLength: 12 },
    );
    fc.assert(
      fc.property(
        fc.array(fc.array(rows, { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 4 }),
        (tree) => {
          const campaigns = tree.map((groups) => levelOf(groups.map(rowsOf)));
          const { means } = hear(levelOf([levelOf(campaigns)]));
          for (const campaign of campaigns) {
            for (const leaf of campaign.members) {
              const [own, above] = [means.get(leaf)!, means.get(campaign)!];
              const its = own.telling > 0 ? own.sold / own.telling : above.mu;
              expect(own.mu).toBeGreaterThanOrEqual(Math.min(its, above.mu) - 1e-12);
              expect(own.mu).toBeLessThanOrEqual(Math.max(its, above.mu) + 1e-12);
              expect(Number.isFinite(own.doubt) && own.doubt > 0).toBe(true);
            }
          }
        },
      ),
      { numRuns: 60 },
    );
  });
});
