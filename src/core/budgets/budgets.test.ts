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

describe('hours of the week', () => {
  test('by hand: Mondays twice as busy, all clicks in two hours', () => {
    const hours = [1, 2, 3, 4, 5, 6, 7].flatMap((weekday) =>
      [9, 20].map((hour) => ({
        weekday,
        hour,
        clicks: (weekday === 1 ? 2000 : 1000) * (hour === 9 ? 1 : 3),
        days: 10,
      })),
    );
    const shares = hourShares(hours);
    // 8 parts over 7 days: a Monday is 1.75 average days, the others 0.875; a quarter at nine.
    expect(shares[9]).toBeCloseTo(1.75 / 4);
    expect(shares[20]).toBeCloseTo((1.75 * 3) / 4);
    expect(shares[24 + 20]).toBeCloseTo((0.875 * 3) / 4);
    expect(shares.reduce((sum, one) => sum + one)).toBeCloseTo(7);
  });

  test('few clicks leave the shape to all days, nothing told leaves all hours alike', () => {
    const shares = hourShares([
      { weekday: 1, hour: 3, clicks: 1, days: 1 },
      { weekday: 2, hour: 8, clicks: 5000, days: 1 },
    ]);
    expect(shares[8]! / shares[3]!).toBeGreaterThan(100);
    expect(hourShares([])).toEqual(Array(168).fill(1 / 24));
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
    let state = 7;
    const unit = () => {
      state = (state * 1103515245 + 12345) % 2147483648;
      return (state + 0.5) / 2147483648;
    };
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
  isResearch: false,
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
