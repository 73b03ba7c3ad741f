import { randomLcg, randomNormal, randomPoisson } from 'd3';
import { describe, expect, test } from 'vitest';
import { learnAccountResponse, type BidChange } from './learn-response.ts';
import {
  movedApart,
  noSubstitution,
  othersMove,
  overlapOf,
  overlaps,
  substituted,
  untouchedAlone,
  untouchedApart,
  type ProductMoves,
} from './substitution.ts';

/** A product with one ad group; as many targets as clicks are told for. */
const accountOf = (targets: number) => ({
  products: [{ sku: 'LID', title: 'lid', price: 20e6, margin: null, stock: null }],
  adGroups: [{ id: 'g', campaign: 0, name: 'g', status: 'enabled', sku: 'LID', fields: {} }],
  targets: Array.from({ length: targets }, (_, i) => ({
    id: `t${i}`,
    adGroup: 0,
    kind: 'keyword',
    matchType: 'broad',
    expression: `word ${i}`,
    bid: 500_000,
    status: 'enabled',
    changedOn: null,
    bidBefore: null,
    firstSeen: null,
    lastSeen: null,
  })),
});

const pairsOf = (rows: [target: number, term: number][]) => ({
  target: Int32Array.from(rows, ([target]) => target),
  term: Int32Array.from(rows, ([, term]) => term),
});

describe('overlap', () => {
  test('by hand: 600 and 400 clicks on one term: of two clicks 2 x 600 x 400 / (1000 x 999) are not of one target', () => {
    const pairs = pairsOf([
      [0, 0],
      [1, 0],
    ]);
    const { overlap, products } = overlaps(accountOf(2), pairs, [600, 400]);
    // 480.48 of 1,000 clicks, 50 clicks in pairs beside them.
    expect(overlap).toBeCloseTo(480.48 / 1050, 4);
    expect(products.LID).toBeCloseTo((480.48 + 50 * overlap) / 1050, 4);
  });

  test('a term of one target overlaps nothing, one that was clicked once tells nothing', () => {
    const pairs = pairsOf([
      [0, 0],
      [1, 1],
      [0, 2],
    ]);
    expect(overlaps(accountOf(2), pairs, [500, 500, 1])).toEqual({ overlap: 0, products: { LID: 0 } });
    expect(overlaps(accountOf(2), pairsOf([]), [])).toEqual({ overlap: 0, products: {} });
  });

  test('sparse terms tell the same as dense ones: pairs of clicks are counted, not shares', () => {
    const random = randomLcg(0.2);
    const rows: [number, number][] = [];
    const clicks: number[] = [];
    for (let term = 0; term < 20_000; term++)
      for (const target of [0, 1]) {
        const count = randomPoisson.source(random)(0.6)();
        if (count > 0) {
          rows.push([target, term]);
          clicks.push(count);
        }
      }
    expect(overlaps(accountOf(2), pairsOf(rows), clicks).overlap).toBeCloseTo(0.5, 1);
  });

  test('a product that is not known overlaps as the account does', () => {
    const known = { ...noSubstitution, overlap: 0.3, products: { LID: 0.5 } };
    expect(overlapOf(known, 'LID')).toBe(0.5);
    expect(overlapOf(known, 'JAR')).toBe(0.3);
    expect(overlapOf(known, null)).toBe(0.3);
  });
});

describe('what bids of one product take from each other', () => {
  const moves: ProductMoves = { clicks: 100, moved: 40 * Math.LN2, untouched: { before: 60, after: 30 } };

  test('by hand: 40 of 100 clicks doubled their bid; the others of one of 10 clicks moved by 30 / 90 of ln 2', () => {
    expect(othersMove(moves, { clicks: 10, move: Math.LN2 })).toBeCloseTo(Math.LN2 / 3);
    expect(othersMove(moves, { clicks: 100, move: 0 })).toBe(0);
  });

  test('by hand: overlap 0.5, s 3, e 1: a bid doubled alone gains 2^(2 x 0.5) = twice; with all others nothing', () => {
    const alone = movedApart(0.5, Math.LN2, 0);
    expect(Math.exp(substituted(alone, 1, { share: 3 }))).toBeCloseTo(2);
    expect(substituted(movedApart(0.5, Math.LN2, Math.LN2), 1, { share: 3 })).toBe(0);
  });

  test('what nobody touched lost half to its product: the market did not move', () => {
    const known = { overlap: 0, products: { LID: 0.5 } };
    // Others moved by 0.4 ln 2, half of it apart: -0.2 ln 2; (s - e) of 5 makes 2^-1.
    const untouched = untouchedApart([['LID', moves]], known);
    expect(untouched).toMatchObject({ before: 60, after: 30 });
    expect(untouched.apart).toBeCloseTo(-0.2 * Math.LN2);
    const alone = untouchedAlone(untouched, 1, { share: 6 });
    expect(alone.after).toBeCloseTo(60);
    expect(untouchedApart([], known)).toEqual({ before: 0, after: 0, apart: 0 });
  });

  test('from bids that were changed apart, an account learns what its products win and what is only moved', () => {
    const random = randomLcg(0.7);
    const [e, s, overlap] = [0.5, 2.5, 0.45];
    const normal = randomNormal.source(random)(0, 0.4);
    const changes: BidChange[] = [];
    for (let product = 0; product < 40; product++) {
      const mean = normal();
      for (let target = 0; target < 15; target++) {
        const move = mean + normal();
        const apart = movedApart(overlap, move, mean);
        const clicks = 30 + 100 * random();
        const after = clicks * Math.exp(e * (move - apart) + s * apart);
        const seen = (rate: number) => randomPoisson.source(random)(rate)();
        changes.push({
          ratio: Math.exp(move),
          paid: null,
          before: { days: 7, clicks: seen(clicks), spend: clicks * 5e5 },
          after: { days: 7, clicks: seen(after), spend: after * 5e5 },
          untouched: { before: 0, after: 0, apart: 0 },
          others: mean,
          overlap,
        });
      }
    }
    const learned = learnAccountResponse(changes, overlap);
    expect(learned.clicks.mean).toBeGreaterThan(0.3);
    expect(learned.clicks.mean).toBeLessThan(0.7);
    expect(learned.share.mean).toBeGreaterThan(2);
    expect(learned.share.mean).toBeLessThan(3);
    // Taken for bids of targets that share no terms, the same changes promise half as much again.
    const naive = learnAccountResponse(
      changes.map((change) => ({ ...change, overlap: 0 })),
      0,
    );
    expect(naive.clicks.mean).toBeGreaterThan(1.5 * learned.clicks.mean);
  });
});
