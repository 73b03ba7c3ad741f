import { describe, expect, test } from 'vitest';
import { checked, context, keywords, product, running, settings } from './kit.fixture.ts';
import { funnelOf } from './funnel.ts';
import { lineCount, partLines } from './lines.ts';
import { changeOf, planKit, planTotals } from './plan.ts';
import { shippedRecipes, usualPart, type Recipe } from './recipe.ts';
import { recognise, type RunningAdGroup } from './running.ts';
import type { KitContext, KitSettings } from './types.ts';

const [fullSet] = shippedRecipes as [Recipe];
const about = { ownPages: new Set(['QY2AAAAA', 'QY2BBBBB']), best: 'airlock lids' };
const complete = (
  adGroups: readonly RunningAdGroup[],
  more: Partial<KitSettings> = {},
  ground: Partial<KitContext> = {},
) => {
  const all = settings({ completes: true, ...more });
  return planKit(fullSet, [product], all, checked(all), context({ running: adGroups, ...ground }));
};
const part = (made: ReturnType<typeof complete>, name: string) =>
  made.parts.find((one) => one.part.name === name)!;

describe('campaigns are recognised as parts of a recipe', () => {
  const names = (found: Map<string, RunningAdGroup>) =>
    Object.fromEntries([...found].map(([name, { adGroupId }]) => [name, adGroupId]));

  test('by what they aim with, then by how they are called', () => {
    const found = recognise(
      fullSet,
      [
        running('1', 'Lids hunt', [
          ['automatic', 'close terms'],
          ['automatic', 'wide terms'],
          ['automatic', 'similar items'],
          ['automatic', 'companion items'],
        ]),
        running('2', 'Lids old', [['exact', 'jar lids']]),
        running('3', 'Lids exact', [['exact', 'airlock lids']]),
        running('4', 'Lids pages', [['item', 'QY9ZZZZZ']]),
        running('5', 'Lids phrase', []),
      ],
      about,
    );
    expect(names(found)).toEqual({ automatic: '1', exact: '3', items: '4', phrase: '5' });
  });

  test('pages of its own are defence, modes apart are no whole', () => {
    const defence = shippedRecipes.find(({ name }) => name === 'Defence')!;
    const own = running('1', 'Lids a', [['item', 'QY2BBBBB']]);
    const rivals = running('2', 'Lids b', [['item', 'QY9ZZZZZ']]);
    expect(names(recognise(defence, [own, rivals], about))).toEqual({ 'own pages': '1' });
    const apart = shippedRecipes.find(({ name }) => name === 'Modes apart')!;
    const close = running('3', 'Lids', [['automatic', 'close terms']]);
    expect(names(recognise(apart, [close], about))).toEqual({ 'close terms': '3' });
    expect(names(recognise(fullSet, [close], about))).toEqual({});
    const alone = shippedRecipes.find(({ name }) => name === 'One best keyword alone')!;
    expect(names(recognise(alone, [running('4', 'x', [['exact', 'Airlock  Lids']])], about))).toEqual({
      'best keyword': '4',
    });
  });

  test('an ad group is one part at most', () => {
    const twice = { ...fullSet, parts: [usualPart('one', 'exact', 1), usualPart('two', 'exact', 1)] };
    expect(recognise(twice, [running('1', 'Lids', [['exact', 'a']])], about).size).toBe(1);
  });
});

describe('a broken set is completed', () => {
  const exact = running('3', 'Lids exact', [['exact', 'airlock lids']], {
    negatives: [{ matchType: 'negative_phrase', expression: 'plastic' }],
  });
  const automatic = running(
    '1',
    'Lids hunt',
    fullSet.parts[0]!.modes.map((mode): [string, string] => ['automatic', mode]),
  );

  test('what is there gets what it misses, what is not is made with its share of the budget', () => {
    const made = complete([exact, automatic], { keywords: keywords('airlock lids', 'jar lids') });
    expect(made.parts.map((one) => [one.part.name, changeOf(one)])).toEqual([
      ['automatic', 'changed'],
      ['broad', 'new'],
      ['phrase', 'new'],
      ['exact', 'changed'],
      ['items', 'new'],
      ['category', 'new'],
    ]);
    expect(part(made, 'exact').targets.map(({ expression }) => expression)).toEqual(['jar lids']);
    expect(part(made, 'exact').name).toBe('Lids exact');
    expect(planTotals(made)).toMatchObject({ campaigns: 4, standing: 2, dailyBudget: 25_000_000 });
    // Three negatives for two keywords and a page, all of them new in the automatic part.
    expect(part(made, 'automatic').negatives).toHaveLength(3);
    // What stands in exact is kept out of phrase as what is new.
    expect(part(made, 'phrase').negatives.map(({ expression }) => expression)).toEqual([
      'airlock lids',
      'jar lids',
    ]);
    expect(funnelOf(made)).toContainEqual({ from: 'exact', to: 'phrase', terms: 2 });
  });

  test('a set that is whole stays as it is: nothing goes onto the sheet', () => {
    const only: Recipe = { ...fullSet, parts: fullSet.parts.filter(({ name }) => name === 'exact') };
    const all = settings({ completes: true, keywords: keywords('airlock lids') });
    const made = planKit(only, [product], all, checked(all), context({ running: [exact] }));
    expect(changeOf(made.parts[0]!)).toBe('same');
    expect(lineCount(made)).toBe(0);
  });

  test('its lines stand in what is there; a budget by hand is a line of its own', () => {
    const made = complete([exact], { edits: { exact: { budget: 9_000_000 } } });
    const lines = made.parts.flatMap((one, at) =>
      partLines(made, one, { campaignId: `new${at}`, adGroupId: `group${at}` }),
    );
    expect(lines).toHaveLength(lineCount(made));
    const own = lines.filter(({ campaignId }) => campaignId === 'c3');
    expect(own.map(({ action, entity, field, newValue }) => [action, entity, field, newValue])).toEqual([
      ['update', 'campaign', 'daily_budget', '9000000'],
      ['create', 'target', 'bid', '1000000'],
    ]);
    expect(own[1]!.adGroupId).toBe('3');
  });

  test('the guess is corrected: another ad group, or none', () => {
    const old = running('2', 'Lids old', [['exact', 'jar lids']]);
    const chosen = complete([exact, old], { edits: { exact: { stands: '2' } } });
    expect(part(chosen, 'exact').stands?.adGroupId).toBe('2');
    const anew = complete([exact, old], { edits: { exact: { stands: null } } });
    expect(part(anew, 'exact').stands).toBeNull();
    expect(part(complete([exact], { completes: false }), 'exact').stands).toBeNull();
    const taken = complete([exact, old], { edits: { phrase: { stands: '3' } } });
    expect(part(taken, 'exact').stands).toBeNull();
  });

  test('what is added to something paused is said not to be shown', () => {
    const paused = complete([{ ...exact, status: 'paused' }]);
    expect(paused.problems.map(({ text }) => text)).toContain(
      'Lids exact is paused: what is added is not shown until it is enabled.',
    );
  });

  test('a keyword that its negatives block is told, and stays out', () => {
    const made = complete([exact], { keywords: keywords('plastic lids') });
    expect(part(made, 'exact').targets).toEqual([]);
    expect(made.problems.map(({ text }) => text)).toContain(
      '1 keyword would never be shown in Lids exact and stays out: “plastic lids” is blocked by its negative “plastic”.',
    );
  });
});

describe('what went stale', () => {
  const page = { category: 'lids', price: 20_000_000, rating: 4.5 };
  const category = running('6', 'Lids category', [['category', 'lids, price 18.90-, rating -4.3']]);
  const rival = (itemCode: string, price: number, rating: number, stock = 9) => ({
    itemCode,
    title: itemCode,
    brand: 'Other',
    category: 'lids',
    price: price * 1e6,
    rating,
    stock,
  });

  test('a category is told to be stale, and narrowed anew with its bid where it is refreshed', () => {
    const told = complete([category], {}, { page });
    expect(part(told, 'category')).toMatchObject({ targets: [], archives: [] });
    expect(part(told, 'category').stale[0]!.why).toBe(
      'Our price is 20.00, it begins at 18.90. We are rated 4.5, it ends at 4.3.',
    );
    const fresh = part(
      complete([category], { edits: { category: { refresh: true } } }, { page }),
      'category',
    );
    expect(fresh.archives.map(({ target }) => target.targetId)).toEqual(['6-0']);
    expect(fresh.targets).toMatchObject([{ expression: 'lids, price 20.00-, rating -4.5', bid: 700_000 }]);
    expect(
      part(complete([category], {}, { page: { ...page, price: 18_900_000, rating: 4.3 } }), 'category').stale,
    ).toEqual([]);
  });

  test('items that are cheaper and rated as well go, those that sold or are dearer stay', () => {
    const items = running('4', 'Lids pages', [
      ['item', 'QYCHEAP1'],
      ['item', 'QYDEAR01'],
      ['item', 'QYSOLD01'],
      ['item', 'QYEMPTY1'],
    ]);
    const sold = {
      ...items,
      targets: items.targets.map((one) => (one.expression === 'QYSOLD01' ? { ...one, orders: 2 } : one)),
    };
    const pages = new Map(
      [
        rival('QYCHEAP1', 15, 4.7),
        rival('QYDEAR01', 25, 4.7),
        rival('QYSOLD01', 15, 4.7),
        rival('QYEMPTY1', 25, 4, 0),
      ].map((one) => [one.itemCode, one]),
    );
    const made = part(complete([sold], { edits: { items: { refresh: true } } }, { page, pages }), 'items');
    expect(made.archives.map(({ target, why }) => [target.expression, why])).toEqual([
      ['QYCHEAP1', 'QYCHEAP1 costs 15.00 by now, 25 % cheaper than ours, rated 4.7 against 4.5.'],
      ['QYEMPTY1', 'QYEMPTY1 is out of stock: nobody looks at its page to buy.'],
    ]);
    expect(made.targets.map(({ expression }) => expression)).toEqual(['QY9ZZZZZ']);
    // As many as go come from what is suggested, but never a page that is cheaper and rated as well.
    const suggested = [
      rival('QYNEW001', 30, 4.4),
      rival('QYNEW002', 26, 4.4),
      rival('QYNEW003', 40, 4.4),
      rival('QYNEW004', 9, 5),
    ];
    const followed = part(
      complete([sold], { edits: { items: { refresh: true } } }, { page, pages, suggested }),
      'items',
    );
    expect(followed.targets.map(({ expression }) => expression)).toEqual([
      'QY9ZZZZZ',
      'QYNEW003',
      'QYNEW001',
    ]);
    expect(followed.targets[1]!.why).toContain('100 % dearer than ours, rated 4.4 against 4.5');
  });
});

describe('budgets of all days, lists, pictures', () => {
  const plan = (more: Partial<KitSettings>, ground: Partial<KitContext> = {}) => {
    const all = settings(more);
    return planKit(fullSet, [product], all, checked(all), context(ground));
  };

  test('a lifetime budget needs an end, and buys a day its share', () => {
    const open = plan({ budgetKind: 'lifetime', budget: 1000e6 });
    expect(open.problems.map(({ text }) => text)).toContain(
      'A budget for all days together needs an end date.',
    );
    const made = plan({
      budgetKind: 'lifetime',
      budget: 1000e6,
      startDate: '2026-12-01',
      endDate: '2026-12-10',
    });
    expect(made.problems.filter(({ stops }) => stops)).toEqual([]);
    // 300.00 of 1,000.00 in ten days.
    expect(part(made, 'exact')).toMatchObject({ budget: 300e6, dailyBudget: 30e6 });
    const [campaign] = partLines(made, part(made, 'exact'), { campaignId: '1', adGroupId: '2' }, 'lifetime');
    expect(campaign).toMatchObject({ field: 'lifetime_budget', newValue: '300000000' });
    expect(
      plan({ budgetKind: 'lifetime', budget: 100e6, endDate: '2026-12-10' }).problems[0]!.text,
    ).toContain('below the least budget of 20.00');
  });

  test('no end date is said aloud where the product has a season', () => {
    const season = { high: 40, low: 5, from: '2026-10-01', isOver: false };
    const said = (more: Partial<KitSettings>) => plan(more, { season }).problems.map(({ at }) => at);
    expect(said({})).toContain('dates');
    expect(said({ endDate: '2026-12-24' })).not.toContain('dates');
  });

  test('lists of the account stand in the whole campaign of every part that they can meet', () => {
    const lists = [
      {
        listId: 1,
        name: 'Never',
        entries: [
          { matchType: 'negative_phrase' as const, expression: 'canning' },
          { matchType: 'negative_item' as const, expression: 'QY0CCCCC' },
        ],
      },
    ];
    const made = plan({}, { lists });
    const of = (name: string) =>
      part(made, name).negatives.flatMap(({ list, expression }) => (list === undefined ? [] : [expression]));
    expect([of('automatic'), of('exact'), of('category'), of('items')]).toEqual([
      ['canning', 'QY0CCCCC'],
      ['canning'],
      ['QY0CCCCC'],
      [],
    ]);
    const lines = partLines(made, part(made, 'exact'), { campaignId: '1', adGroupId: '2' });
    expect(lines.at(-1)).toMatchObject({
      campaignId: '1',
      adGroupId: null,
      reason: expect.stringContaining('Never'),
    });
  });

  test('pictures and titles: what is too many, too long, or all left out is told', () => {
    const pictures = [{ id: 'a', name: 'front.png' }];
    const made = plan({ pictures, titles: ['Good lids', ' '], leftOut: ['a other'] });
    expect(part(made, 'exact').creatives).toEqual([
      { kind: 'picture', value: 'a', name: 'front.png' },
      { kind: 'title', value: 'Good lids', name: 'Good lids' },
    ]);
    const lines = partLines(made, part(made, 'exact'), { campaignId: '1', adGroupId: '2' });
    expect(
      lines.slice(3, 5).map(({ entity, expression, newValue }) => [entity, expression, newValue]),
    ).toEqual([
      ['picture', 'a', 'front.png'],
      ['title', 'Good lids', 'Good lids'],
    ]);
    const wrong = plan({
      pictures: Array.from({ length: 4 }, (_, at) => ({ id: String(at), name: 'x' })),
      titles: ['one', 'two', 'x'.repeat(101)],
    });
    expect(wrong.problems.filter(({ at }) => at === 'creatives')).toHaveLength(3);
    const none = plan({ pictures, titles: ['Good lids'], leftOut: ['a Good lids'] });
    expect(none.problems.map(({ text }) => text)).toContain(
      'Every picture is left out with every title: nothing could be shown.',
    );
  });

  test('an ad group that stands gets the pictures and titles that it does not show yet', () => {
    const wanted = {
      completes: true,
      pictures: [
        { id: 'a', name: 'front.png' },
        { id: 'b', name: 'side.png' },
      ],
      titles: ['Good lids'],
    };
    const stands = [running('1', 'Lids exact', [['exact', 'airlock lids']])];
    const shown = (...ids: string[]) => ({
      '1': [
        ...ids.map((value) => ({ kind: 'picture' as const, value })),
        { kind: 'title' as const, value: 'Good lids' },
      ],
    });
    const made = plan(wanted, { running: stands, shows: shown('a') });
    expect(part(made, 'exact').creatives.map(({ value }) => value)).toEqual(['b']);
    expect(part(made, 'phrase').creatives.map(({ value }) => value)).toEqual(['a', 'b', 'Good lids']);
    const lines = partLines(made, part(made, 'exact'), { campaignId: '1', adGroupId: '2' });
    expect(lines.find(({ entity }) => entity === 'picture')).toMatchObject({
      adGroupId: '1',
      expression: 'b',
    });
    expect(lineCount({ ...made, parts: [part(made, 'exact')] })).toBe(lines.length);
    // Three there already, and an ad group takes three.
    const full = plan(wanted, { running: stands, shows: shown('c', 'd', 'e') });
    expect(full.problems).toContainEqual({
      part: 'exact',
      at: 'creatives',
      text: 'It shows 3 pictures already and would get 2; an ad group takes 3 at most.',
      stops: true,
    });
  });
});
