import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { guardsOf } from '../goals/goals.ts';
import { defaultGuards, stances } from '../bids/guards.ts';
import { micros } from '../metrics/money.ts';
import { usualLadder } from '../bids/ladder.ts';
import { Allowance, heldBack, type Candidate } from './choose.ts';
import { narrowed, narrowingOf } from './narrow.ts';
import { routineProblem } from './routine.ts';
import { lookedAt, stopReason, type Sureness } from './safety.ts';
import { newRoutine, shippedRoutines } from './shipped.ts';
import { limitAt, missed, thresholdSaid, type Threshold } from './thresholds.ts';

const row = {
  sums: { clicks: 20, spend: micros(12), orders: 1, sales: micros(30), impressions: 900 },
  mu: 0.08,
  cpc: micros(0.6),
  targetAcos: 0.25,
};
const threshold = (more: Partial<Threshold>): Threshold => ({
  figure: 'clicks',
  is: 'at_least',
  value: 1.5,
  measure: 'clicks_per_order',
  ...more,
});
const candidate: Candidate = {
  key: 'target:1',
  kind: 'bids',
  campaignId: 'c1',
  measured: row,
  worth: micros(3),
  raises: false,
  held: null,
  changedOn: null,
  handOn: null,
  since: '2026-01-01',
};
const today = '2026-11-20';
const routine = newRoutine('Test');

describe('thresholds', () => {
  test('by what is usual for the row: an order takes 12.5 clicks here, so 1.5 of them are 18.75', () => {
    expect(limitAt(threshold({}), row)).toBeCloseTo(18.75);
    expect(missed(threshold({}), row)).toBeNull();
    expect(missed(threshold({ value: 2 }), row)).toBe('Clicks 20, at least 25 are asked for');
  });

  test('spend by CPC, ACOS by the goal: 40 % against 1.3 times 25 %', () => {
    expect(missed(threshold({ figure: 'spend', value: 10, measure: 'cpc' }), row)).toBeNull();
    expect(missed(threshold({ figure: 'spend', value: 30, measure: 'cpc' }), row)).toBe(
      'Spend 12.00, at least 18.00 is asked for',
    );
    expect(missed(threshold({ figure: 'acos', value: 1.3, measure: 'goal' }), row)).toBeNull();
    expect(missed(threshold({ figure: 'acos', value: 0.3, is: 'at_most', measure: 'plain' }), row)).toBe(
      'ACOS 40 %, at most 30 % is asked for',
    );
  });

  test('money without a sale is an ACOS above every threshold', () => {
    const wasted = { ...row, sums: { ...row.sums, orders: 0, sales: 0 } };
    expect(missed(threshold({ figure: 'acos', value: 5, measure: 'plain' }), wasted)).toBeNull();
  });

  test('what it is measured by may be unknown: then nothing is done', () => {
    const unknown = { ...row, cpc: null };
    expect(missed(threshold({ figure: 'spend', value: 1, measure: 'cpc' }), unknown)).toContain(
      'not known yet',
    );
  });

  test('are said as they are set', () => {
    expect(thresholdSaid(threshold({}))).toBe('clicks at least 1.5 × the clicks that an order takes');
    expect(thresholdSaid(threshold({ figure: 'acos', is: 'at_most', value: 0.3, measure: 'plain' }))).toBe(
      'ACOS at most 30 %',
    );
  });
});

describe('what is left alone', () => {
  const why = (more: Partial<Candidate>, settings: object = {}) =>
    heldBack({ ...candidate, ...more }, { ...routine, ...settings }, today)?.why ?? null;

  test('nothing stands against a finding that keeps to all', () => expect(why({})).toBeNull());
  test('guards, a hand, the last change, a new campaign, each with the day on which it may', () => {
    expect(why({ held: 'its cooldown' })).toBe('Held by its cooldown.');
    expect(why({ handOn: '2026-11-10' })).toBe('Set by hand on 2026-11-10; left alone until 2026-11-24.');
    expect(why({ changedOn: '2026-11-15' })).toBe(
      'Changed on 2026-11-15; its next change waits until 2026-11-22.',
    );
    expect(why({ since: '2026-11-18' })).toBe('Its campaign has run 2 days; new ones have 7.');
    expect(why({ since: null })).toContain('has run 0 days');
  });
  test('one that only cuts leaves raises', () => {
    expect(why({ raises: true }, { moves: 'cuts' })).toBe('It would raise; this routine only cuts.');
    expect(why({ raises: false }, { moves: 'cuts' })).toBeNull();
    expect(why({ raises: null }, { moves: 'cuts' })).toBeNull();
  });
  test('too few clicks or impressions', () => {
    expect(why({}, { leastClicks: 21 })).toBe('20 clicks; 21 are asked for.');
    expect(why({}, { leastImpressions: 1000 })).toBe('900 impressions; 1,000 are asked for.');
  });
});

describe('limits', () => {
  const limits = { lines: 10, weekLines: 20, spend: micros(50), weekSpend: micros(80), share: 0.2 };
  const taking = (week: object = {}, spend = micros(1000)) =>
    new Allowance(limits, { lines: 0, spend: 0, ...week }, spend);

  test('of a run, a week and the account, each said', () => {
    const run = taking();
    expect(run.take({ lines: 10, spend: 0 })).toBeNull();
    expect(run.take({ lines: 1, spend: 0 })!.why).toBe('A run may hold 10 lines: it waits for you.');
    expect(taking({ lines: 15 }).take({ lines: 6, spend: 0 })!.why).toBe(
      'A week may hold 20 lines, 15 of them are used: it waits for you.',
    );
    expect(taking().take({ lines: 1, spend: micros(51) })!.why).toBe(
      'A run may move 50.00 a week: it waits for you.',
    );
    expect(taking({}, micros(100)).take({ lines: 1, spend: micros(21) })!.why).toBe(
      'A run may move 20 % of the account’s 100.00 a week: it waits for you.',
    );
  });

  test('what is too large for the rest is passed over; a smaller one behind it still goes', () => {
    const run = taking();
    expect(run.take({ lines: 8, spend: 0 })).toBeNull();
    expect(run.take({ lines: 3, spend: 0 })).not.toBeNull();
    expect(run.take({ lines: 2, spend: 0 })).toBeNull();
    expect(run.used.lines).toBe(10);
  });

  test('no order of findings gets past a limit', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ lines: fc.integer({ min: 1, max: 9 }), spend: fc.integer({ min: 0, max: 4e7 }) }),
        ),
        fc.record({ lines: fc.integer({ min: 0, max: 25 }), spend: fc.integer({ min: 0, max: 9e7 }) }),
        (findings, week) => {
          const run = new Allowance(limits, week, micros(300));
          for (const one of findings) run.take(one);
          const { lines, spend } = run.used;
          expect(lines).toBeLessThanOrEqual(limits.lines);
          expect(lines === 0 || week.lines + lines <= limits.weekLines).toBe(true);
          expect(spend).toBeLessThanOrEqual(Math.min(limits.spend, limits.share * micros(300)));
          expect(lines === 0 || week.spend + spend <= limits.weekSpend).toBe(true);
        },
      ),
    ));

  test('who wants to move more than the account spends has run away', () => {
    const run = taking({}, micros(200));
    for (let i = 0; i < 5; i++) run.take({ lines: 1, spend: micros(45) });
    expect(run.isRunaway).toBe(true);
    expect(taking().isRunaway).toBe(false);
  });
});

describe('narrowing', () => {
  test('a step, a range or a wait of a routine never widens what a goal says, whatever its stance', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...stances),
        fc.record({
          up: fc.option(fc.double({ min: 1.05, max: 3, noNaN: true }), { nil: null }),
          down: fc.option(fc.double({ min: 0.2, max: 0.95, noNaN: true }), { nil: null }),
          leastBid: fc.option(fc.integer({ min: 10_000, max: 500_000 }), { nil: null }),
          highestBid: fc.option(fc.integer({ min: 500_000, max: 90_000_000 }), { nil: null }),
          wait: fc.integer({ min: 0, max: 30 }),
        }),
        fc.option(
          fc.record({
            up: fc.double({ min: 1.05, max: 3, noNaN: true }),
            cooldownDays: fc.integer({ min: 1, max: 30 }),
          }),
          { nil: undefined },
        ),
        (stance, by, own) => {
          const goal = { stance, guards: own ?? {}, bidFloor: null, bidCeiling: null };
          const usual = guardsOf(goal, defaultGuards);
          const input = narrowed(
            { goals: [], guards: defaultGuards },
            narrowingOf({ kinds: ['bids'], method: null, ...by }),
          );
          const now = guardsOf(goal, input.guards);
          expect(now.up).toBeLessThanOrEqual(Math.min(usual.up, by.up ?? Infinity));
          expect(now.down).toBeGreaterThanOrEqual(Math.max(usual.down, by.down ?? 0));
          expect(now.floor).toBeGreaterThanOrEqual(Math.max(usual.floor, by.leastBid ?? 0));
          expect(now.ceiling).toBeLessThanOrEqual(Math.min(usual.ceiling, by.highestBid ?? Infinity));
          expect(now.cooldownDays).toBeGreaterThanOrEqual(Math.max(usual.cooldownDays, by.wait));
        },
      ),
    ));

  test('its method stands in place of every goal’s', () => {
    const goal = {
      scope: 'account' as const,
      key: '',
      targetAcos: 0.3,
      bidFloor: null,
      bidCeiling: null,
      theta: 0.4,
      method: 'evidence' as const,
      ladder: usualLadder,
    };
    const by = narrowingOf({ ...routine, method: 'bands' });
    expect(narrowed({ goals: [goal], guards: defaultGuards }, by).goals[0]!.method).toBe('bands');
    expect(narrowed({ goals: [goal], guards: defaultGuards }, { ...by, method: null }).goals[0]!.method).toBe(
      'evidence',
    );
  });
});

describe('safety', () => {
  const sure: Sureness = {
    today,
    newest: today,
    hoursSince: 5,
    settled: { then: 1000, now: 1010 },
    settledShare: 0.96,
    lastTalk: { failed: false, message: null, applied: 90, refused: 2 },
    forecasts: { scored: 40, within: 31 },
    byClock: true,
  };
  const reason = (more: Partial<Sureness>) => stopReason({ ...sure, ...more });

  test('nothing speaks against acting while all is as expected', () => expect(reason({})).toBeNull());
  test('stale figures, by their day for all, by the hour for what runs by the clock', () => {
    expect(reason({ newest: '2026-11-16' })).toContain('the last day told is 2026-11-16');
    expect(reason({ hoursSince: 73 })).toContain('they came in 3 days ago');
    expect(reason({ hoursSince: 73, byClock: false })).toBeNull();
  });
  test('settled days that grow by more than was left of them', () => {
    expect(reason({ settled: { then: 1000, now: 1150 } })).toContain(
      '1,000 orders of settled days have become 1150',
    );
    expect(reason({ settled: { then: 1000, now: 1040 } })).toBeNull();
    expect(reason({ settled: { then: 20, now: 60 } })).toBeNull();
  });
  test('errors and refusals of the marketplace', () => {
    expect(
      reason({ lastTalk: { failed: true, message: 'It answered 503.', applied: 0, refused: 0 } }),
    ).toContain('It answered 503.');
    expect(reason({ lastTalk: { failed: false, message: null, applied: 4, refused: 8 } })).toContain(
      'refused 8 of the last 12 lines',
    );
  });
  test('forecasts that have been wrong, once there are enough of them', () => {
    expect(reason({ forecasts: { scored: 30, within: 12 } })).toContain('only 40 % of 30');
    expect(reason({ forecasts: { scored: 10, within: 1 } })).toBeNull();
  });
  test('the window ends with the last settled day, or before the youngest that are left out', () => {
    expect(lookedAt({ days: 7, youngest: 0 }, today, '2026-11-15')).toEqual({
      from: '2026-11-09',
      to: '2026-11-15',
    });
    expect(lookedAt({ days: 7, youngest: 10 }, today, '2026-11-15')).toEqual({
      from: '2026-11-04',
      to: '2026-11-10',
    });
  });
});

describe('settings', () => {
  const problem = (more: object) => routineProblem({ ...routine, kinds: ['bids'], ...more })?.field ?? null;

  test('the shipped ones can all be kept', () => {
    expect(shippedRoutines.map((one) => routineProblem(one))).toEqual(shippedRoutines.map(() => null));
    expect(new Set(shippedRoutines.map(({ name }) => name)).size).toBe(8);
  });
  test('the stop of spend without orders never raises anything', () =>
    expect(shippedRoutines.find(({ name }) => name === 'Stop spend without orders')!.moves).toBe('cuts'));
  test('what cannot be kept names its field', () => {
    const { limits } = routine;
    expect(problem({})).toBeNull();
    expect(problem({ name: ' ' })).toBe('name');
    expect(problem({ kinds: ['stages'] })).toBe('scope');
    expect(problem({ limits: { ...limits, weekLines: 1 } })).toBe('limits.weekLines');
    expect(problem({ limits: { ...limits, share: 0 } })).toBe('limits.share');
    expect(problem({ leastBid: 2e6, highestBid: 1e6 })).toBe('leastBid');
    expect(problem({ up: 0.9 })).toBe('up');
    expect(problem({ reach: { how: 'hold', hours: 0 } })).toBe('reach.hours');
    expect(problem({ thresholds: [threshold({ figure: 'orders', measure: 'goal' })] })).toBe('thresholds.0');
    expect(problem({ time: { on: 'time', weekdays: [], at: '03:00' } })).toBe('time.weekdays');
  });
});
