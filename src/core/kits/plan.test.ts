import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { matches } from '../terms/match.ts';
import { checked, context, keywords, product, settings } from './kit.fixture.ts';
import { funnelOf } from './funnel.ts';
import { planKit, planTotals } from './plan.ts';
import type { KitContext, KitSettings } from './types.ts';
import { recipeProblems, shippedRecipes, type Recipe } from './recipe.ts';

const [fullSet] = shippedRecipes as [Recipe];
const recipe = (name: string) => shippedRecipes.find((one) => one.name === name)!;
const plan = (
  more: Partial<KitSettings> = {},
  about: Partial<KitContext> = {},
  of: Recipe = fullSet,
  served: Parameters<typeof checked>[1] = [],
) => {
  const all = settings(more);
  return planKit(of, [product], all, checked(all, served), context(about));
};
const part = (made: ReturnType<typeof plan>, name: string) =>
  made.parts.find((one) => one.part.name === name)!;

describe('a full set', () => {
  test('is a campaign a part, named by the pattern, with the budget parted to the cent', () => {
    const made = plan();
    expect(made.problems.filter(({ stops }) => stops)).toEqual([]);
    expect(made.parts.map(({ name, dailyBudget }) => [name, dailyBudget / 1e6])).toEqual([
      ['Lids automatic', 10],
      ['Lids broad', 7.5],
      ['Lids phrase', 7.5],
      ['Lids exact', 15],
      ['Lids items', 5],
      ['Lids category', 5],
    ]);
    expect(planTotals(made)).toEqual({
      campaigns: 6,
      standing: 0,
      archives: 0,
      targets: 12, // phrase 2, broad 2 + 2, automatic 2 + 1, category 1
      negatives: 10,
      dailyBudget: 50_000_000,
    });
  });

  test('has every term served in one place: what is more precise is kept out of what is less', () => {
    const made = plan({ keywords: keywords('airlock lids') });
    const shut = (name: string) =>
      part(made, name).negatives.map(({ matchType, expression, servedBy }) => [
        matchType,
        expression,
        servedBy,
      ]);
    expect(shut('exact')).toEqual([]);
    expect(shut('items')).toEqual([]);
    expect(shut('phrase')).toEqual([['negative_exact', 'airlock lids', 'exact']]);
    expect(shut('broad')).toEqual([
      ['negative_phrase', 'airlock lids', 'phrase'],
      ['negative_exact', 'airlock lids', 'exact'],
    ]);
    expect(shut('automatic')).toEqual([
      ['negative_exact', 'airlock lids', 'broad'],
      ['negative_item', 'QY9ZZZZZ', 'items'],
    ]);
    expect(shut('category')).toEqual([['negative_item', 'QY9ZZZZZ', 'items']]);
    expect(funnelOf(made)).toContainEqual({ from: 'exact', to: 'phrase', terms: 1 });
  });

  test('without its exact part the phrase part keeps everything', () => {
    const made = plan({ edits: { exact: { state: 'out' } } });
    expect(part(made, 'phrase').negatives).toEqual([]);
    expect(made.parts.map(({ dailyBudget }) => dailyBudget).reduce((a, b) => a + b)).toBe(50_000_000);
  });

  test('an empty part is made with its default bid and nothing in it', () => {
    const exact = part(plan({ edits: { exact: { state: 'empty' } } }), 'exact');
    expect(exact.targets).toEqual([]);
    // theta 0.5 x 0.1 orders per click x 20.00
    expect(exact.defaultBid.bid).toBe(1_000_000);
  });

  test('research bids carefully, performance by the mean', () => {
    const made = plan();
    expect(part(made, 'exact').targets[0]!.bid).toBe(1_000_000);
    const [broad] = part(made, 'broad').targets;
    expect(broad!.bid).toBeLessThan(1_000_000);
    expect(broad!.bid).toBeGreaterThan(700_000);
    expect(broad!.why).toContain('a careful figure');
  });
});

describe('what is wrong is said at its place', () => {
  const said = (made: ReturnType<typeof plan>) =>
    made.problems.map(({ part: name, at, stops }) => [name, at, stops]);

  test('a budget below the sum of leasts says what it would take', () => {
    const made = plan({ budget: 8_000_000 });
    const problem = made.problems.find(({ part: name, at }) => name === 'broad' && at === 'budget')!;
    // Shares of 0.1 get 2.00 of 20.00.
    expect(problem.text).toBe('1.20 is below the least budget of 2.00: a kit of these shares needs 20.00.');
    expect(problem.stops).toBe(true);
  });

  test('few clicks a day are a hint, with the budget that would do', () => {
    const made = plan({ budget: 20_000_000 });
    const problem = made.problems.find(({ part: name, at }) => name === 'exact' && at === 'budget')!;
    // 6.00 / (1.00 x 0.8)
    expect(problem).toMatchObject({ stops: false });
    expect(problem.text).toContain('6.00 a day buys 7.5 clicks at 0.80; 10 a day, 8.00, would judge it');
  });

  test('names that are taken, too long, or hold a token that there is not', () => {
    expect(plan({}, { taken: new Set(['lids exact']) }).parts.map(({ name }) => name)).toContain(
      'Lids exact 02',
    );
    expect(said(plan({ edits: { exact: { name: 'Mine' } } }, { taken: new Set(['mine']) }))).toContainEqual([
      'exact',
      'name',
      true,
    ]);
    expect(said(plan({}, { nameCharacters: 9 }))).toContainEqual(['exact', 'name', true]);
    expect(said(plan({}, {}, { ...fullSet, pattern: '{code} {part} {prat}' }))).toContainEqual([
      null,
      'name',
      true,
    ]);
  });

  test('dates, stock, item codes, keywords and an empty kit', () => {
    expect(said(plan({ endDate: '2026-11-25' }))).toContainEqual([null, 'dates', true]);
    expect(said(plan({ startDate: '2026-12-24', endDate: '2026-12-01' }))).toContainEqual([
      null,
      'dates',
      true,
    ]);
    expect(said(plan({ items: [{ itemCode: 'what', bid: null }] }))).toContainEqual([null, 'items', false]);
    expect(said(plan({ keywords: keywords('a;b', 'fine lids') }))).toContainEqual([null, 'keywords', false]);
    const out = Object.fromEntries(fullSet.parts.map(({ name }) => [name, { state: 'out' as const }]));
    expect(said(plan({ edits: out }))).toEqual([[null, 'recipe', true]]);
    const soldOut = planKit(fullSet, [{ ...product, stock: 0 }], settings(), checked(settings()), context());
    expect(said(soldOut)).toContainEqual([null, 'product', false]);
  });

  test('more targets than an ad group holds', () => {
    const many = keywords(...Array.from({ length: 12 }, (_, i) => `lids number ${i}`));
    expect(said(plan({ keywords: many }, { targetsPerAdGroup: 10 }))).toContainEqual([
      'exact',
      'targets',
      true,
    ]);
    expect(said(plan({ keywords: many }, { negativesPerAdGroup: 10 }))).toContainEqual([
      'broad',
      'negatives',
      true,
    ]);
  });

  test('what the product has already stays out of the part of that match type only', () => {
    const made = plan({}, {}, fullSet, [{ text: 'Airlock Lids', matchType: 'exact', adGroup: 'Lids exact' }]);
    const texts = (name: string) => part(made, name).targets.map(({ expression }) => expression);
    expect(texts('exact')).toEqual(['jar lids']);
    expect(texts('phrase')).toEqual(['airlock lids', 'jar lids']);
  });
});

describe('other recipes', () => {
  test('modes apart: a campaign a mode', () => {
    const made = plan({}, {}, recipe('Modes apart'));
    expect(
      made.parts.map(({ name, targets }) => [name, targets.map(({ expression }) => expression)]),
    ).toEqual([
      ['Lids close terms', ['close terms']],
      ['Lids wide terms', ['wide terms']],
      ['Lids similar items', ['similar items']],
      ['Lids companion items', ['companion items']],
    ]);
  });

  test('defence stands beside the account’s other pages, never its own', () => {
    const [own] = plan({}, {}, recipe('Defence')).parts;
    expect(own!.targets.map(({ expression }) => expression)).toEqual(['QY2BBBBB']);
  });

  test('a category is narrowed from our price upward and up to our rating, or told to be unknown', () => {
    const category = (about: Partial<KitContext>) => part(plan({}, about), 'category');
    expect(category({}).targets.map(({ expression }) => expression)).toEqual([
      'lids, price 18.90-, rating -4.3',
    ]);
    const page = { category: null, price: 1, rating: null };
    expect(category({ page }).targets).toEqual([]);
    expect(plan({}, { page }).problems.map(({ text }) => text)).toContain(
      'The category of this product is not known: load its products, or leave it out.',
    );
  });

  test('one best keyword alone, or a word that there is none', () => {
    const alone = recipe('One best keyword alone');
    expect(plan({}, {}, alone).parts[0]!.targets).toMatchObject([
      { expression: 'airlock lids', matchType: 'exact' },
    ]);
    const made = plan({}, { best: null }, alone);
    expect(made.problems.map(({ text }) => text)).toContain(
      'No term of this product has sold yet: there is no best keyword.',
    );
  });

  test.each(shippedRecipes.map((one) => [one.name, one] as const))('%s can be used', (_, one) => {
    expect(recipeProblems(one)).toEqual([]);
  });

  test('what keeps a recipe from being used is told', () => {
    const [first] = fullSet.parts;
    const said = recipeProblems({
      name: ' ',
      pattern: '{code}',
      parts: [{ ...first!, share: 0, modes: [] }, first!],
    });
    expect(said).toHaveLength(5);
    expect(recipeProblems({ ...fullSet, parts: [] })).toEqual(['A recipe needs a part.']);
  });
});

test('whatever is put in, no term of a more precise keyword reaches a less precise part', () => {
  const word = fc.constantFrom('airlock', 'lids', 'jar', 'wide', 'glass', 'set');
  const phrase = fc.array(word, { minLength: 1, maxLength: 4 }).map((list) => list.join(' '));
  fc.assert(
    fc.property(fc.array(phrase, { maxLength: 12 }), (texts) => {
      const made = plan({ keywords: keywords(...texts) });
      const rank = ['exact', 'phrase', 'broad', 'automatic'];
      for (const to of made.parts)
        for (const from of made.parts) {
          const [a, b] = [rank.indexOf(from.part.kind), rank.indexOf(to.part.kind)];
          if (a < 0 || b < 0 || a >= b) continue;
          for (const { expression } of from.targets)
            expect(to.negatives.some((one) => matches(one.matchType, one.expression, expression))).toBe(true);
        }
      const names = made.parts.map(({ name }) => name.toLowerCase());
      expect(new Set(names).size).toBe(names.length);
    }),
  );
});
