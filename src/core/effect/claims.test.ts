import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Claimed, sharesOf, takenByBid, type Claiming } from './claims.ts';

const on = (targetId: string, part: number, clicks = part * 100) => ({ targetId, part, clicks });
const term = (words: string, ...claims: Claiming['claims']): Claiming => ({
  claims,
  text: { kind: 'term', words },
  takes: 1,
});
const phrase = (words: string, ...claims: Claiming['claims']): Claiming => ({
  claims,
  text: { kind: 'phrase', words },
  takes: 1,
});
const bid = (targetId: string, takes: number): Claiming => ({ claims: [on(targetId, 1)], text: null, takes });

describe('what is counted once', () => {
  test('a phrase settles the terms that hold it, and a term counted first is left out of the phrase', () => {
    const words = phrase('canning', on('1', 0.4));
    const one = term('canning jars wide', on('1', 0.1));
    expect(sharesOf([words, one])).toEqual([1, 0]);
    const [first, second] = sharesOf([one, words]);
    expect([first, second]).toEqual([1, expect.closeTo(0.75, 9) as number]);
    // "canningjars" holds no such word.
    expect(sharesOf([words, term('canningjars', on('1', 0.1))])).toEqual([1, 1]);
  });

  test('a longer phrase is part of a shorter one', () => {
    expect(sharesOf([phrase('canning', on('1', 0.4)), phrase('canning jars', on('1', 0.2))])).toEqual([1, 0]);
  });

  test('a bid has less to save where a term is blocked, a term where the bid is cut', () => {
    expect(sharesOf([term('a b', on('1', 0.3)), bid('1', 0.5)])).toEqual([1, 0.7]);
    expect(sharesOf([bid('1', 0.5), term('a b', on('1', 0.3))])).toEqual([1, 0.5]);
    // A raise takes nothing away.
    expect(sharesOf([bid('1', 0), term('a b', on('1', 0.3))])).toEqual([1, 1]);
  });

  test('another target is another matter; a term of two targets is settled where it was', () => {
    expect(sharesOf([term('a b', on('1', 0.3)), bid('2', 0.5)])).toEqual([1, 1]);
    expect(
      sharesOf([phrase('a', on('1', 0.3, 30)), term('a b', on('1', 0.3, 30), on('2', 0.3, 10))]),
    ).toEqual([1, 0.25]);
  });

  test('phrases that overlap in part never find more than is left', () => {
    const shares = sharesOf([phrase('a', on('1', 0.7)), phrase('b', on('1', 0.7))]);
    expect(shares[1]).toBeCloseTo(0.3 / 0.7, 9);
  });

  test('what claims nothing counts whole', () => {
    expect(new Claimed().share({ claims: [], text: null, takes: 1 })).toBe(1);
  });

  test('what a bid takes of its clicks', () => {
    expect(takenByBid(40, -10)).toBe(0.25);
    expect(takenByBid(40, 10)).toBe(0);
    expect(takenByBid(0, -1)).toBe(0);
  });
});

test('of any changes, in any order: no click of a target is taken twice', () => {
  const words = fc.constantFrom('a', 'b', 'a b', 'b c', 'a b c', 'c');
  const part = fc.double({ min: 0.01, max: 1, noNaN: true });
  const target = fc.constantFrom('1', '2');
  const change = fc.oneof(
    fc.tuple(words, target, part).map(([text, id, size]) => term(text, on(id, size))),
    fc.tuple(words, target, part).map(([text, id, size]) => phrase(text, on(id, size))),
    fc.tuple(target, fc.double({ min: 0, max: 1, noNaN: true })).map(([id, takes]) => bid(id, takes)),
  );
  fc.assert(
    fc.property(fc.array(change, { maxLength: 20 }), (changes) => {
      const shares = sharesOf(changes);
      const taken = new Map<string, number>();
      changes.forEach(({ claims, takes }, i) => {
        expect(shares[i]).toBeGreaterThanOrEqual(0);
        expect(shares[i]).toBeLessThanOrEqual(1);
        for (const { targetId, part: size } of claims)
          taken.set(targetId, (taken.get(targetId) ?? 0) + shares[i]! * size * takes);
      });
      for (const sum of taken.values()) expect(sum).toBeLessThanOrEqual(1 + 1e-9);
    }),
  );
});
