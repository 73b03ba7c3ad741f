import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { matches } from './match.ts';
import { normalise } from '../text/normalise.ts';
import { WordVerdicts } from './word-verdicts.ts';
import { sumWords, termFigures, wordFigures, WordTree, type TermFigures } from './words.ts';

interface Term {
  text: string;
  clicks: number;
  orders: number;
}

/** Terms whose siblings sell 0.1 orders a click of 20.00 each, at a goal of 30 % and 0.40 a click. */
function figuresOf(terms: readonly Term[]): TermFigures {
  const figures = termFigures(terms.length);
  terms.forEach(({ clicks, orders }, at) => {
    figures.impressions[at] = clicks * 40;
    for (const name of ['clicks', 'n', 'seenClicks'] as const) figures[name][at] = clicks;
    for (const name of ['orders', 'y', 'seenOrders'] as const) figures[name][at] = orders;
    for (const name of ['spend', 'seenSpend'] as const) figures[name][at] = clicks * 400_000;
    for (const name of ['sales', 'seenSales'] as const) figures[name][at] = orders * 20_000_000;
    figures.expected[at] = clicks * 0.1;
    figures.goals[at] = clicks * 0.3;
    figures.thetas[at] = clicks * 0.5;
    figures.values[at] = clicks * 20_000_000;
  });
  return figures;
}

const sum = (terms: readonly Term[], piece?: number) =>
  sumWords(
    terms.map(({ text }) => text),
    figuresOf(terms),
    () => Promise.resolve(),
    piece,
  );

const judged = async (terms: readonly Term[], relevant: string[] = []) => {
  const sums = await sum(terms);
  const verdicts = new WordVerdicts(sums, 30, new Set(relevant), 3);
  return new Map(
    Array.from({ length: verdicts.count }, (_, at) => verdicts.row(at)).map((row) => [row.words, row]),
  );
};

const account: Term[] = [
  { text: 'airlock lids', clicks: 200, orders: 24 },
  { text: 'canning lids', clicks: 440, orders: 0 },
  { text: 'canning jars', clicks: 50, orders: 0 },
  { text: 'lids for canning', clicks: 30, orders: 0 },
  { text: 'lids for jars', clicks: 60, orders: 5 },
  { text: 'wide lids', clicks: 50, orders: 7 },
];

describe('sequences', () => {
  test('one to three words, each once in a text that repeats them', () => {
    const tree = new WordTree();
    const texts = (text: string) => tree.sequencesOf(tree.idsOf(text)).map((place) => tree.text(place));
    expect(texts('lids for jars uk')).toEqual([
      'lids',
      'lids for',
      'lids for jars',
      'for',
      'for jars',
      'for jars uk',
      'jars',
      'jars uk',
      'uk',
    ]);
    expect(texts('jar jar jar')).toEqual(['jar', 'jar jar', 'jar jar jar']);
    expect(texts('🫙 !!!')).toEqual([]);
    expect(tree.text(tree.find(['for', 'jars']))).toBe('for jars');
    expect(tree.find(['jars', 'lids'])).toBe(-1);
  });

  test('by hand: canning is in three terms with 520 clicks and no order', async () => {
    const rows = await judged(account);
    expect(rows.get('canning')).toMatchObject({
      terms: 3,
      clicks: 520,
      orders: 0,
      spend: 208_000_000,
      length: 1,
    });
    expect(rows.get('lids')).toMatchObject({ terms: 5, clicks: 780, orders: 36 });
    expect(rows.get('lids for')).toMatchObject({ terms: 2, clicks: 90 });
  });

  const word = fc.constantFrom('lid', 'jar', 'canning', 'wide', 'for', '5');
  const term = fc.record({
    text: fc.array(word, { minLength: 1, maxLength: 5 }).map((list) => list.join(' ')),
    clicks: fc.nat(50),
    orders: fc.nat(3),
  });

  test('a sequence sums exactly the terms that a negative phrase of it would block', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(term, { maxLength: 12 }),
        fc.integer({ min: 1, max: 5 }),
        async (terms, piece) => {
          const sums = await sum(terms, piece);
          sums.sequences.forEach((place, at) => {
            const words = sums.tree.text(place);
            const inside = terms.filter(({ text }) => matches('negative_phrase', words, text));
            expect(sums.terms[place]).toBe(inside.length);
            expect(sums.figures.clicks[at]).toBe(inside.reduce((total, { clicks }) => total + clicks, 0));
            expect(sums.figures.orders[at]).toBe(inside.reduce((total, { orders }) => total + orders, 0));
          });
        },
      ),
    );
  });

  test('among many terms only what comes twice is kept, and its sums are the same', async () => {
    // 200,000 terms of three words: each number once, "jar" everywhere, a colour in every third.
    const many = Array.from({ length: 200_000 }, (_, i): Term => ({
      text: `${i % 3 === 0 ? 'red' : `tint${i}`} jar size${i % 1000}`,
      clicks: 1 + (i % 4),
      orders: 0,
    }));
    const sums = await sum(many);
    const of = (words: string) => {
      const place = sums.tree.find(words.split(' '));
      const at = place < 0 ? -1 : sums.at[place]!;
      return at < 0 ? null : [sums.terms[place], sums.figures.clicks[at]];
    };
    const by = (test: (term: Term) => boolean) => {
      const inside = many.filter(test);
      return [inside.length, inside.reduce((total, { clicks }) => total + clicks, 0)];
    };
    expect(of('jar')).toEqual(by(() => true));
    expect(of('red jar')).toEqual(by(({ text }) => text.startsWith('red')));
    expect(of('jar size7')).toEqual(by(({ text }) => text.endsWith(' size7')));
    expect(of('red jar size9')).toEqual(by(({ text }) => text === 'red jar size9'));
    expect(of('tint1')).toBeNull();
    expect(of('tint1 jar')).toBeNull();
  });

  test('whoever waits hears how far it is: rising from piece to piece, up to all texts', async () => {
    const heard: number[] = [];
    const texts = account.map(({ text }) => text);
    const hear = (done: number) => Promise.resolve(void heard.push(done));
    await sumWords(texts, figuresOf(account), hear, 2);
    // Six texts in pieces of two, read and then counted; then figure by figure.
    expect(heard.slice(0, 6)).toEqual([1, 2, 3, 4, 5, 6]);
    expect(heard.slice(6)).toEqual(wordFigures.map(() => 6));
  });

  test('all figures are summed, and nothing is summed twice', async () => {
    const sums = await sum(account);
    const figures = figuresOf(account);
    const at = sums.at[sums.tree.find(['lids'])]!;
    for (const name of wordFigures) {
      const expected = account.reduce(
        (total, { text }, row) =>
          total + (` ${normalise(text)} `.includes(' lids ') ? figures[name][row]! : 0),
        0,
      );
      expect(sums.figures[name][at]).toBeCloseTo(expected, 6);
    }
  });
});

describe('verdicts', () => {
  test('a word without orders over many clicks is proposed, once, and by its shortest form', async () => {
    const rows = await judged(account);
    // 520 clicks at 0.1 an order: an average word would have sold with more than 99 %.
    expect(rows.get('canning')).toMatchObject({ proposed: true });
    expect(rows.get('canning')!.worth).toBeGreaterThan(0);
    expect(rows.get('canning lids')!.proposed).toBe(false);
  });

  test('what sells is never proposed, nor a filler, nor what lies just over its goal', async () => {
    const dear = [...account, { text: 'kit for jars', clicks: 400, orders: 20 }];
    const rows = await judged(dear);
    expect(rows.get('lids')!.proposed).toBe(false);
    expect(rows.get('for')!.proposed).toBe(false);
    // 160 spent for 400 of sales: 40 % against 30 %. Lower bids mend that.
    expect(rows.get('kit')!.proposed).toBe(false);
  });

  test('a relevant word is not proposed; what is bad about longer sequences then comes to light', async () => {
    const rows = await judged(account, ['canning']);
    expect(rows.get('canning')).toMatchObject({ proposed: false, relevant: true });
    expect(rows.get('canning lids')!.proposed).toBe(true);
  });

  test('goals and values of several products are weighed by their clicks', async () => {
    const sums = await sum(account);
    sums.figures.goals.fill(0);
    const at = sums.at[sums.tree.find(['canning'])]!;
    sums.figures.goals[at] = 400 * 0.2 + 120 * 0.4;
    expect(new WordVerdicts(sums, 30, new Set(), 3).row(at).targetAcos).toBeCloseTo(128 / 520, 10);
  });
});
