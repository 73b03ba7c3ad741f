import type { Effect } from '../effect/types.ts';
import { eighty } from '../effect/forecast.ts';
import { addDays, daysBetween, type Day } from '../metrics/days.ts';
import { counted, signedMoney } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import type { PlayedBid } from '../account/as-of.ts';
import { Allowance, heldBack, type Candidate, type Held } from './choose.ts';
import type { Routine } from './routine.ts';

/**
 * A routine played over nights of the past, with what was known on each (domain, section 16). What it changes is
 * remembered, so that no night acts on what an earlier one has done; figures stay what they were, and what it should have
 * changed is the sum of its forecasts over the days that were left.
 */

/** A finding of a night, with what it would do. */
export interface DryCandidate extends Candidate {
  subject: string;
  campaign: string;
  sentence: string;
  lines: number;
  effect: Effect | null;
  /** Of a bid: whose, and which one. */
  bid: { targetId: string; to: Micros } | null;
}

export interface DryItem {
  key: string;
  kind: string;
  subject: string;
  campaign: string;
  sentence: string;
  worth: Micros;
}

export interface DryNight {
  day: Day;
  /** Whether it was due. */
  isDue: boolean;
  found: number;
  taken: number;
  beyond: number;
  left: number;
  lines: number;
  /** Spend moved a week, micros. */
  moved: Micros;
  /** Those worth most. */
  items: DryItem[];
}

/** A sum over the stretch with the ends of its 80 % interval. */
interface Ranged {
  value: number;
  low: number;
  high: number;
}

export interface DrySummary {
  nights: number;
  due: number;
  taken: number;
  lines: number;
  /** Over the days that were left of the stretch; money in micros. */
  spend: Ranged;
  orders: Ranged;
  sales: Ranged;
  /** Null where costs are not known. */
  profit: Ranged | null;
  /** Micros over the stretch, at the prices of money then. */
  worth: Micros;
  /** Findings whose effect cannot be told. */
  untold: number;
  sentence: string;
}

/** How many findings of a night are told one by one. */
const mostItems = 12;

export class DryRun {
  readonly nights: DryNight[] = [];
  private readonly taken = new Set<string>();
  private readonly bids = new Map<string, PlayedBid>();
  private readonly days: { day: Day; lines: number; spend: Micros }[] = [];
  private sums = { spend: 0, orders: 0, sales: 0, profit: 0 };
  private squares = { spend: 0, orders: 0, sales: 0, profit: 0 };
  private worth = 0;
  private untold = 0;
  private isProfitKnown = true;

  constructor(
    private readonly routine: Routine,
    private readonly to: Day,
  ) {}

  /** Bids as they stand by what was played. */
  get played(): PlayedBid[] {
    return [...this.bids.values()];
  }

  /** Whether it is due on a night: at figures, or on a day of the week. */
  isDue(day: Day): boolean {
    const { time } = this.routine;
    return time.on === 'figures' || time.weekdays.includes((new Date(`${day}T00:00Z`).getUTCDay() + 6) % 7);
  }

  /** Plays a night. `weekSpend`: what the account spent a week then, micros. */
  night(day: Day, candidates: readonly DryCandidate[], weekSpend: Micros): void {
    const { routine } = this;
    const week = this.days
      .filter((one) => one.day > addDays(day, -7))
      .reduce((sum, one) => ({ lines: sum.lines + one.lines, spend: sum.spend + one.spend }), {
        lines: 0,
        spend: 0,
      });
    const allowance = new Allowance(routine.limits, week, weekSpend);
    const taken: DryCandidate[] = [];
    let [beyond, left] = [0, 0];
    for (const one of candidates) {
      // What was played once stands, however often its evidence comes back.
      const repeats = one.bid === null && this.taken.has(one.key);
      const held: Held | null = repeats
        ? { by: 'gone', why: 'It was done on an earlier night.' }
        : heldBack(one, routine, day);
      if (held) left++;
      else if (allowance.take({ lines: one.lines, spend: Math.abs(one.effect?.spend ?? 0) })) beyond++;
      else taken.push(one);
    }
    for (const one of taken) this.take(one, day);
    const { lines, spend } = allowance.used;
    this.days.push({ day, lines, spend });
    this.nights.push({
      day,
      isDue: true,
      found: candidates.length,
      taken: taken.length,
      beyond,
      left,
      lines,
      moved: spend,
      items: taken.slice(0, mostItems).map(({ key, kind, subject, campaign, sentence, worth }) => ({
        key,
        kind,
        subject,
        campaign,
        sentence,
        worth,
      })),
    });
  }

  /** A night on which it was not due. */
  rest(day: Day): void {
    this.nights.push({
      day,
      isDue: false,
      found: 0,
      taken: 0,
      beyond: 0,
      left: 0,
      lines: 0,
      moved: 0,
      items: [],
    });
  }

  private take({ key, bid, effect, worth }: DryCandidate, day: Day): void {
    this.taken.add(key);
    if (bid) this.bids.set(bid.targetId, { targetId: bid.targetId, bid: bid.to, on: day });
    const weeks = daysBetween(day, this.to) / 7;
    this.worth += worth * weeks;
    if (!effect) {
      this.untold++;
      return;
    }
    this.sums.spend += effect.spend * weeks;
    this.sums.orders += effect.orders * weeks;
    this.sums.sales += effect.sales * weeks;
    const spreads = effect.spreads ?? {
      spend: 0,
      orders: 0,
      sales: (effect.salesHigh - effect.salesLow) / (2 * eighty),
      profit: null,
    };
    this.squares.spend += (spreads.spend * weeks) ** 2;
    this.squares.orders += (spreads.orders * weeks) ** 2;
    this.squares.sales += (spreads.sales * weeks) ** 2;
    if (effect.profit === null) this.isProfitKnown = false;
    else {
      this.sums.profit += effect.profit * weeks;
      this.squares.profit += ((spreads.profit ?? 0) * weeks) ** 2;
    }
  }

  summary(): DrySummary {
    const ranged = (name: 'spend' | 'orders' | 'sales' | 'profit'): Ranged => {
      const half = eighty * Math.sqrt(this.squares[name]);
      return { value: this.sums[name], low: this.sums[name] - half, high: this.sums[name] + half };
    };
    const due = this.nights.filter(({ isDue }) => isDue).length;
    const taken = this.nights.reduce((sum, night) => sum + night.taken, 0);
    const lines = this.nights.reduce((sum, night) => sum + night.lines, 0);
    const [spend, sales] = [ranged('spend'), ranged('sales')];
    return {
      nights: this.nights.length,
      due,
      taken,
      lines,
      spend,
      sales,
      orders: ranged('orders'),
      profit: this.isProfitKnown ? ranged('profit') : null,
      worth: this.worth,
      untold: this.untold,
      sentence:
        taken === 0
          ? `In ${counted(due, 'run')} over ${counted(this.nights.length, 'night')} it would have done nothing.`
          : `In ${counted(due, 'run')} it would have taken ${counted(taken, 'finding')} in ${counted(lines, 'line')}: ` +
            `spend ${signedMoney(spend.value)} (${signedMoney(spend.low)} to ${signedMoney(spend.high)}), ` +
            `sales ${signedMoney(sales.value)} (${signedMoney(sales.low)} to ${signedMoney(sales.high)}) by the end of the stretch.`,
    };
  }
}

/** Kinds that can be played over the past. */
export const playable = ['harvest', 'negate', 'bids'] as const;
