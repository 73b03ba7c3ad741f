import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { usualResponse } from '../effect/response.ts';
import { hourShares, type CampaignDay } from './hours.ts';
import { lostOf, spendUnder } from './lost.ts';
import { budgetGuards, optionOf, proposeBudget, type BudgetNow } from './propose.ts';
import { splitProblem, splitter, type SplitMember, type SplitRules } from './split.ts';

const guards = { ...budgetGuards, minimumBudget: micros(1), cooldownDays: 7 };
const today = '2026-05-31';

/** Numbers from 0 to 1 that look random and are the same each time. */
function units(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 1103515245 + 12345) % 2147483648;
    return (state + 0.5) / 2147483648;
  };
}

describe('hours of the week', () => {
  const hour = (weekday: number, at: number, clicks: number, shown = 10, missed = 0, campaignId = 'a') => ({
    campaignId,
    weekday,
    hour: at,
    clicks,
    shown,
    missed,
  });
  const none = () => 0;

  test('by hand: Mondays twice as busy, all clicks in two hours', () => {
    const hours = [1, 2, 3, 4, 5, 6, 7].flatMap((weekday) =>
      Array.from({ length: 24 }, (_, at) =>
        hour(weekday, at, (at === 9 ? 1 : at === 20 ? 3 : 0) * (weekday === 1 ? 20_000 : 10_000)),
      ),
    );
    const shares = hourShares(hours, () => 'sku', none);
    // 8 parts over 7 days: a Monday is 1.75 average days, the others 0.875; a quarter at nine.
    expect(shares[9]).toBeCloseTo(1.75 / 4, 2);
    expect(shares[20]).toBeCloseTo((1.75 * 3) / 4, 2);
    expect(shares[24 + 20]).toBeCloseTo((0.875 * 3) / 4, 2);
    expect(shares.reduce((sum, one) => sum + one)).toBeCloseTo(7);
  });

  test('few clicks leave the shape to all days, nothing told leaves all hours alike', () => {
    const full = [2, 3, 4].flatMap((weekday) => [3, 8].map((at) => hour(weekday, at, at === 8 ? 5000 : 50)));
    const shares = hourShares([hour(1, 3, 1, 0.001), hour(1, 8, 2, 0.001), ...full], () => 'sku', none);
    expect(shares[8]! / shares[3]!).toBeGreaterThan(20);
    expect(hourShares([], () => null, none)).toEqual(Array(168).fill(1 / 24));
  });

  /** Sixty days of two campaigns of one product: the first runs dry in the afternoon, the other catches a part. */
  function afternoons(part: number, seed: number) {
    const unit = units(seed);
    const poisson = (mean: number) => {
      let [n, chance] = [0, Math.exp(-mean)];
      for (let u = unit(); u > chance && n < 200; n++) {
        u -= chance;
        chance *= mean / (n + 1);
      }
      return n;
    };
    const truth = Array.from({ length: 24 }, (_, at) => (at < 8 ? 1 : at < 16 ? 4 : 8) / 104);
    const [first, second] = [90, 60];
    const cells = new Map<string, ReturnType<typeof hour>>();
    const add = (campaignId: string, weekday: number, at: number, clicks: number, isShown: boolean) => {
      const key = `${campaignId} ${weekday} ${at}`;
      const cell = cells.get(key) ?? hour(weekday, at, 0, 0, 0, campaignId);
      cell.clicks += clicks;
      if (isShown) cell.shown++;
      else cell.missed++;
      cells.set(key, cell);
    };
    const days = Array.from({ length: 60 }, () => 10 + Math.floor(11 * unit()));
    for (const [index, dryAt] of days.entries())
      truth.forEach((share, at) => {
        const isShown = at < dryAt;
        const own = isShown ? poisson(first * share) : 0;
        const others = poisson(second * share + (isShown ? 0 : part * first * share));
        add('a', (index % 7) + 1, at, own, isShown);
        add('b', (index % 7) + 1, at, others, true);
      });
    return { truth, cells: [...cells.values()] };
  }

  test('against hidden truth: evenings are no busier than shoppers are', () => {
    const { truth, cells } = afternoons(0.7, 5);
    const evening = (shares: readonly number[]) =>
      shares.reduce((sum, share, at) => sum + (at % 24 >= 16 ? share : 0), 0) / 7;
    const real = truth.reduce((sum, share, at) => sum + (at >= 16 ? share : 0), 0);
    const blind = evening(hourShares(cells, () => 'sku', none));
    const told = evening(
      hourShares(
        cells,
        () => 'sku',
        () => 0.7,
      ),
    );
    expect(blind).toBeGreaterThan(real + 0.05);
    expect(Math.abs(told - real)).toBeLessThan(0.03);
  });
});

const campaignDay = (clicks: number, shown = 1, cost = 0.5): CampaignDay => ({
  day: '2026-05-01',
  clicks,
  spend: micros(clicks * cost),
  orders: 0,
  sales: 0,
  minutes: shown * 1440,
  shown,
  missed: 1 - shown,
});

describe('lost clicks', () => {
  test('by hand: ten clicks an average day, dry half of every other day', () => {
    const days = Array.from({ length: 20 }, (_, at) => (at % 2 ? campaignDay(10) : campaignDay(5, 0.5)));
    const lost = lostOf(days);
    expect(lost.shown).toBe(0.75);
    // Each dry day was as busy as all: 5 more clicks, 2.50 more.
    expect(lost.clicks).toBeCloseTo(50);
    expect(lost.full[0]).toBeCloseTo(micros(5));
    expect(lost.full[1]).toBe(micros(5));
    expect(lost.spread).toBeGreaterThan(Math.sqrt(50));
  });

  test('a busy day that ran dry missed more than a quiet one', () => {
    const days = [
      ...Array.from({ length: 12 }, (_, at) => campaignDay(at % 2 ? 30 : 10)),
      campaignDay(15, 0.5),
    ];
    const calm = [
      ...Array.from({ length: 12 }, (_, at) => campaignDay(at % 2 ? 30 : 10)),
      campaignDay(5, 0.5),
    ];
    expect(lostOf(days).clicks).toBeGreaterThan(lostOf(calm).clicks * 1.5);
  });

  test('against hidden truth: days drawn about their own level, stopped when the money was gone', () => {
    const unit = units(7);
    let [told, true_, inside] = [0, 0, 0];
    const campaigns = 400;
    for (let c = 0; c < campaigns; c++) {
      const base = 5 + 25 * unit();
      const most = Math.max(1, Math.round(base * (0.5 + 0.8 * unit())));
      let missed = 0;
      const days = Array.from({ length: 28 }, () => {
        const level = base * Math.exp(0.3 * (unit() + unit() + unit() - 1.5) * 2 - 0.045);
        let [at, clicks, shown] = [0, 0, 1];
        for (;;) {
          at += -Math.log(unit()) / level;
          if (at > 1) break;
          if (clicks < most && ++clicks === most) shown = at;
          else if (shown < 1) missed++;
        }
        return campaignDay(clicks, shown);
      });
      const { clicks, spread } = lostOf(days);
      told += clicks;
      true_ += missed;
      if (Math.abs(clicks - missed) < 1.2816 * spread) inside++;
    }
    expect(told / true_).toBeGreaterThan(0.93);
    expect(told / true_).toBeLessThan(1.07);
    expect(inside / campaigns).toBeGreaterThan(0.7);
    expect(inside / campaigns).toBeLessThan(0.93);
  });

  test('nothing told of minutes, no click: nothing is claimed', () => {
    const untold = { ...campaignDay(4), minutes: null };
    expect(lostOf([untold])).toMatchObject({ shown: null, clicks: 0, full: [micros(2)] });
    expect(lostOf([campaignDay(0, 0.2)])).toMatchObject({ shown: 0.2, clicks: 0, cpc: null });
    expect(spendUnder(micros(3), [micros(2), micros(6)])).toBe(micros(2.5));
  });
});

const now = (about: Partial<BudgetNow> = {}): BudgetNow => ({
  budget: micros(5),
  full: Array<number>(28).fill(micros(8)),
  shown: 0.6,
  cpc: micros(0.5),
  earns: micros(2.5),
  earnsSpread: micros(0.2),
  caught: 0,
  cpcOthers: micros(0.5),
  perClick: 0.1,
  targetAcos: 0.3,
  theta: 0.3,
  response: usualResponse,
  changedOn: null,
  ...about,
});

describe('a budget that runs dry', () => {
  test('under its goal it is raised to a full day and a fifth: 8.00 x 1.2 = 9.60', () => {
    const { chosen, options, chance, over } = proposeBudget(now(), guards, today)!;
    expect(chosen).toMatchObject({ kind: 'raise', budget: micros(9.6), bids: 1 });
    // 3.00 a day more at 0.50: 42 clicks a week, 105.00 sold for 21.00; 0.3 x 105 - 21 = 10.50.
    expect(chosen.clicks).toBeCloseTo(42);
    expect(chosen.worth).toBeCloseTo(micros(10.5), -2);
    expect(options.map(({ kind }) => kind)).toEqual(['raise', 'lower_bids']);
    expect(over).toBeLessThan(0.01);
    expect(chance).toBeGreaterThan(0.99);
  });

  test('over its goal it is never raised: bids are lowered until the money lasts', () => {
    const { chosen, options } = proposeBudget(now({ earns: micros(1.4) }), guards, today)!;
    expect(options.map(({ kind }) => kind)).toEqual(['lower_bids']);
    expect(chosen.bids).toBeLessThan(0.9);
    expect(chosen.clicks).toBeGreaterThan(0);
    expect(chosen.spend).toBeLessThanOrEqual(1);
    // One step of bids more or less buys less.
    for (const bids of [chosen.bids - 0.01, chosen.bids + 0.01])
      expect(optionOf(now({ earns: micros(1.4) }), 'lower_bids', micros(5), bids).clicks).toBeLessThanOrEqual(
        chosen.clicks,
      );
  });

  test('twice at most, and not within the cooldown', () => {
    const starved = now({
      earns: micros(6),
      full: Array<number>(28).fill(micros(12)),
      changedOn: '2026-05-28',
    });
    expect(proposeBudget(starved, guards, today)).toMatchObject({
      chosen: { budget: micros(10) },
      held: ['cooldown', 'largest step'],
    });
  });

  test('one that lasts stands; one of twice its dearest day is idle', () => {
    expect(proposeBudget(now({ shown: 1 }), guards, today)).toBeNull();
    const lazy = now({ shown: 1, budget: micros(40) });
    expect(proposeBudget(lazy, guards, today)!.chosen).toMatchObject({
      kind: 'slack',
      budget: micros(12),
      clicks: 0,
      worth: 0,
    });
    expect(proposeBudget({ ...lazy, full: [micros(8)] }, guards, today)).toBeNull();
    expect(proposeBudget({ ...lazy, shown: null }, guards, today)!.chosen.kind).toBe('slack');
    expect(proposeBudget(now({ full: [] }), guards, today)).toBeNull();
  });

  test('laws: what is proposed is worth something, keeps its steps, and never raises what is over', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 5e7 }), { minLength: 1, maxLength: 30 }),
        fc.integer({ min: 1e6, max: 5e7 }),
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        fc.double({ min: 0.1, max: 8, noNaN: true }),
        (full, budget, shown, earns) => {
          const found = proposeBudget(now({ full, budget, shown, earns: micros(earns) }), guards, today);
          if (!found) return;
          const { chosen, over } = found;
          expect(chosen.worth).toBeGreaterThanOrEqual(0);
          expect(chosen.bids).toBeGreaterThanOrEqual(0.5);
          if (chosen.kind === 'raise') {
            expect(over).toBeLessThanOrEqual(0.5);
            expect(chosen.budget).toBeLessThanOrEqual(2 * budget + 1e5);
            expect(chosen.budget).toBeGreaterThan(budget);
          }
          if (chosen.kind === 'slack') expect(chosen.budget).toBeLessThan(budget);
        },
      ),
    );
  });
});

const member = (
  campaignId: string,
  roas: number,
  full: number[],
  about: Partial<SplitMember> = {},
): SplitMember => ({
  campaignId,
  roas,
  full: full.map(micros),
  least: 0,
  most: null,
  now: 0,
  caught: 0,
  isResearch: false,
  isOver: false,
  ...about,
});
const total = (money: number): SplitRules => ({
  total: micros(money),
  researchShare: null,
  researchCap: null,
});
const splitTotal = (members: SplitMember[], rules: SplitRules, set?: Map<string, number>) =>
  splitter(members, rules)(set);
const budgetsOf = (...args: Parameters<typeof splitTotal>) =>
  Object.fromEntries(splitTotal(...args).parts.map(({ campaignId, budget }) => [campaignId, budget / 1e6]));

describe('what others of the product catch', () => {
  test('by hand: half of 42 clicks is no gain, and what the others paid for it is saved', () => {
    const { chosen, options } = proposeBudget(now({ caught: 0.5, cpcOthers: micros(0.4) }), guards, today)!;
    const raise = options.find(({ kind }) => kind === 'raise')!;
    expect(raise.own).toBeCloseTo(42);
    expect(raise.clicks).toBeCloseTo(21);
    // 21.00 more of its own, 21 x 0.40 less of the others; 21 clicks sell 52.50.
    expect(raise.spend / 1e6).toBeCloseTo(21 - 8.4);
    expect(raise.worth / 1e6).toBeCloseTo(0.3 * 52.5 - 12.6);
    expect(chosen.worth).toBe(Math.max(...options.map(({ worth }) => worth)));
  });

  test('a unit sells less where others would have caught it; as it stands nothing is taken off', () => {
    const caught = member('a', 4, [10, 10], { caught: 0.5, now: micros(4) });
    const { parts, sales } = splitTotal([caught], total(10));
    expect(parts[0]).toMatchObject({ last: 2, budget: micros(10) });
    // 4.00 at 4 a unit, and 6.00 more at 2.
    expect(sales).toBe(micros(16 + 12));
  });
});

describe('a total split', () => {
  // a: 5 a unit up to 10 every day. b: 4 up to 10, half of its days up to 20. c: 1.
  const three = [member('a', 5, [10, 10]), member('b', 4, [10, 20]), member('c', 1, [50, 50])];

  test('by hand: three campaigns of known returns', () => {
    expect(budgetsOf(three, total(8))).toEqual({ a: 8, b: 0, c: 0 });
    expect(budgetsOf(three, total(18))).toEqual({ a: 10, b: 8, c: 0 });
    // From 10 on half of b's days use a unit: it sells 2, still more than c.
    expect(budgetsOf(three, total(25))).toEqual({ a: 10, b: 15, c: 0 });
    expect(budgetsOf(three, total(40))).toEqual({ a: 10, b: 20, c: 10 });
    const { parts, sales, spend, free } = splitTotal(three, total(100));
    expect(free).toBe(micros(20));
    expect(spend).toBe(micros(10 + 15 + 50));
    expect(sales).toBe(micros(50 + 60 + 50));
    expect(parts.map(({ bound }) => bound)).toEqual(['lasts', 'lasts', 'lasts']);
    const [, b] = splitTotal(three, total(25)).parts;
    expect(b).toMatchObject({ last: 2, next: 2, bound: null, spend: micros(12.5), sales: micros(50) });
  });

  test('leasts come first, mosts hold, what is set stays', () => {
    const held = [{ ...three[0]!, most: micros(6) }, three[1]!, { ...three[2]!, least: micros(3) }];
    expect(budgetsOf(held, total(18))).toEqual({ a: 6, b: 9, c: 3 });
    expect(splitTotal(held, total(18)).parts.map(({ bound }) => bound)).toEqual(['most', null, 'least']);
    expect(budgetsOf(held, total(18), new Map([['c', micros(9)]]))).toEqual({ a: 6, b: 3, c: 9 });
    // More than is left of the total cannot be set.
    expect(budgetsOf(three, total(18), new Map([['c', micros(90)]]))).toEqual({ a: 0, b: 0, c: 18 });
  });

  test('research has its share, with its cap, and leaves what it cannot use', () => {
    const research = member('r', 0.5, [30, 30], { isResearch: true });
    const rules = { ...total(40), researchShare: 0.25 };
    expect(budgetsOf([...three, research], rules)).toEqual({ a: 10, b: 20, c: 0, r: 10 });
    expect(budgetsOf([...three, research], { ...rules, researchCap: micros(4) })).toMatchObject({
      c: 6,
      r: 4,
    });
    expect(budgetsOf([...three, { ...research, full: [micros(2)] }], rules)).toMatchObject({ c: 8, r: 2 });
  });

  test('over its goal a campaign keeps what it has at most', () => {
    const over = { ...three[0]!, most: micros(4), isOver: true };
    const { parts } = splitTotal([over, three[1]!], total(20));
    expect(parts.map(({ budget, bound }) => [budget / 1e6, bound])).toEqual([
      [4, 'over'],
      [16, null],
    ]);
  });

  test('rules that cannot be kept are said', () => {
    expect(splitProblem(three, total(0))).toMatch(/total is nothing/);
    const many = three.map((one) => ({ ...one, least: micros(10) }));
    expect(splitProblem(many, total(25))).toMatch(
      /leasts of 3 campaigns are 30.00 a day together, above the total of 25.00/,
    );
    expect(() => splitTotal(many, total(25))).toThrow(RangeError);
    expect(splitProblem([{ least: micros(5), most: micros(2) }], total(9))).toMatch(
      /at least 5.00 and at most 2.00/,
    );
  });

  const members = fc.array(
    fc.record({
      full: fc.array(fc.integer({ min: 0, max: 40 }), { minLength: 1, maxLength: 6 }),
      roas: fc.integer({ min: 0, max: 8 }),
      least: fc.integer({ min: 0, max: 3 }),
      room: fc.option(fc.integer({ min: 0, max: 30 })),
    }),
    { minLength: 2, maxLength: 5 },
  );

  test('law: no other split of the same total sells more', () => {
    fc.assert(
      fc.property(
        members,
        fc.integer({ min: 20, max: 120 }),
        fc.infiniteStream(fc.double({ min: 0, max: 1, noNaN: true })),
        (list, money, units) => {
          const made = list.map(({ full, roas, least, room }, at) =>
            member(String(at), roas, full, {
              least: micros(least),
              most: room === null ? null : micros(least + room),
            }),
          );
          const best = splitTotal(made, total(money));
          expect(best.parts.reduce((sum, { budget }) => sum + budget, 0)).toBeLessThanOrEqual(micros(money));
          best.parts.forEach(({ budget }, at) => {
            expect(budget).toBeGreaterThanOrEqual(made[at]!.least);
            if (made[at]!.most !== null) expect(budget).toBeLessThanOrEqual(made[at]!.most!);
          });
          const salesOf = (budgets: number[]) =>
            budgets.reduce((sum, budget, at) => sum + made[at]!.roas * spendUnder(budget, made[at]!.full), 0);
          for (let other = 0; other < 30; other++) {
            let left = micros(money) - made.reduce((sum, { least }) => sum + least, 0);
            const order = made.map((_, at) => at).sort(() => units.next().value! - 0.5);
            const budgets = made.map(({ least }) => least);
            for (const at of order) {
              const more = Math.min(left * units.next().value!, (made[at]!.most ?? Infinity) - budgets[at]!);
              budgets[at]! += more;
              left -= more;
            }
            expect(salesOf(budgets)).toBeLessThanOrEqual(best.sales + 8 * 10_000 * made.length);
          }
        },
      ),
    );
  });

  test('law: moving a euro from any campaign to any other sells no more', () => {
    fc.assert(
      fc.property(members, fc.integer({ min: 20, max: 120 }), (list, money) => {
        const made = list.map(({ full, roas }, at) => member(String(at), roas, full));
        const best = splitTotal(made, total(money)).parts;
        for (const from of best)
          for (const to of best) {
            if (from === to || from.budget < micros(1)) continue;
            const [a, b] = [made[Number(from.campaignId)]!, made[Number(to.campaignId)]!];
            const before = from.sales + to.sales;
            const after =
              a.roas * spendUnder(from.budget - micros(1), a.full) +
              b.roas * spendUnder(to.budget + micros(1), b.full);
            expect(after).toBeLessThanOrEqual(before + 8 * 20_000);
          }
      }),
    );
  });
});
