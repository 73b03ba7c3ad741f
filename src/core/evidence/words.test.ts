import { randomLcg, randomPoisson } from 'd3';
import { describe, expect, test } from 'vitest';
import type { Prior } from './prior.ts';
import {
  factorOf,
  learnTau,
  movedPrior,
  numberWords,
  wordEffects,
  wordsThatMove,
  type HeldOutRow,
} from './words.ts';

const split = (text: string) => text.split(' ');
const prior: Prior = { mu: 0.1, strength: 1e9, doubt: 0 };

test('a word that fewer than three terms hold is told from nothing; a term counts it once', () => {
  const { words, list, from } = numberWords(['big lid lid', 'lid', 'small lid', 'big jar'], split);
  expect(words).toEqual(['lid']);
  expect([...list]).toEqual([0, 0, 0]);
  expect([...from]).toEqual([0, 1, 2, 3, 3]);
});

test('one word by hand: three terms, 30 orders where 15 were expected', () => {
  const terms = numberWords(['lid a', 'lid b', 'lid c'], split);
  const rows = [0, 1, 2].map((term) => ({ term, clicks: 50, orders: 10, prior }));
  // Freely: 30 = 15 e^beta, beta = ln 2.
  expect(wordEffects(terms, rows, 1000)[0]).toBeCloseTo(Math.LN2, 3);
  // Held by its prior: beta / 0.2^2 = 30 - 15 e^beta.
  const beta = wordEffects(terms, rows, 0.2)[0]!;
  expect(beta / 0.04).toBeCloseTo(30 - 15 * Math.exp(beta), 1);
  expect(beta).toBeGreaterThan(0.2);
  expect(beta).toBeLessThan(Math.LN2);
});

test('a row weighs by its likeness: at strength 50 a row of 50 clicks counts half', () => {
  const terms = numberWords(['lid a', 'lid b', 'lid c'], split);
  const rows = [0, 1, 2].map((term) => ({ term, clicks: 50, orders: 10, prior: { ...prior, strength: 50 } }));
  const beta = wordEffects(terms, rows, 0.2)[0]!;
  expect(beta / 0.04).toBeCloseTo(0.5 * (30 - 15 * Math.exp(beta)), 1);
});

test('words multiply the prior mean and leave its strength; all together at most 4.48 times', () => {
  expect(movedPrior(prior, Math.LN2)).toEqual({ ...prior, mu: 0.2 });
  expect(movedPrior(prior, 0)).toBe(prior);
  expect(factorOf(5)).toBeCloseTo(4.4817, 4);
  expect(factorOf(-5)).toBeCloseTo(1 / 4.4817, 4);
});

test('the words of a text, strongest first, each once', () => {
  const effects = new Map([
    ['wide', Math.log(1.5)],
    ['cheap', Math.log(0.4)],
  ]);
  const { sum, moved } = wordsThatMove(effects, ['wide', 'cheap', 'wide', 'lid']);
  expect(sum).toBeCloseTo(Math.log(0.6));
  expect(moved.map(({ word }) => word)).toEqual(['cheap', 'wide']);
  expect(moved[0]!.factor).toBeCloseTo(0.4);
  expect(wordsThatMove(new Map(), ['wide'])).toEqual({ sum: 0, moved: [] });
});

describe('whether words are used is decided by the days held out', () => {
  function account(effect: number): [ReturnType<typeof numberWords>, HeldOutRow[]] {
    const random = randomLcg(0.5);
    const poisson = randomPoisson.source(random);
    const kinds = ['red', 'blue', 'green', 'cheap'];
    const texts = Array.from({ length: 400 }, (_, i) => `${kinds[i % 4]} lid ${kinds[(i >> 2) % 4]} n${i}`);
    const rows = texts.map((text, term) => {
      const rate = 0.1 * Math.exp(text.includes('cheap') ? -effect : 0);
      const [n, y] = [15, poisson(15 * rate)()];
      const own: Prior = { mu: 0.1, strength: 60, doubt: 0 };
      const after = { clicks: 15, orders: poisson(15 * rate)() };
      return { term, clicks: n, orders: y, n, y, prior: own, after };
    });
    return [numberWords(texts, split), rows];
  }

  test('used where a word tells', () => {
    const learned = learnTau(...account(1.5))!;
    expect(learned.used).toBe(true);
    expect(learned.score).toBeGreaterThan(learned.plainScore);
  });

  test('not where none does, and not without days', () => {
    expect(learnTau(...account(0))!.used).toBe(false);
    const [terms, rows] = account(1);
    const silent = rows.map((row) => ({ ...row, after: { clicks: 0, orders: 0 } }));
    expect(learnTau(terms, silent)).toBeNull();
  });
});
