import type { Effect } from '../effect/types.ts';
import { eighty } from '../effect/forecast.ts';
import { addDays, daysBetween, type Day, type Window } from '../metrics/days.ts';
import { counted, signedMoney } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { changeName, type Played } from '../account/as-of.ts';
import { conflictKey, type LineDraft } from '../changes/lines.ts';
import type { Offered } from './candidate.ts';
import { Allowance, changedLately, heldBack, type Held } from './choose.ts';
import type { Routine, RoutineKind } from './routine.ts';

/**
 * A routine played over nights of the past, with what was known on each (domain, section 16). What it changes is
 * remembered, so that no night acts on what an earlier one has done; figures stay what they were, and what it should have
 * changed is the sum of its forecasts over the days that were left.
 */

/** A finding of a night, with what it would do. */
export interface DryCandidate extends Offered, Does {}

/** What the lines of a finding do. */
export interface Does {
  lines: number;
  effect: Effect | null;
  /** What they set, by `conflictKey`: no two findings of a night set the same. */
  sets: string[];
  /** Fields that they change, by `changeName`. */
  touches: string[];
  /** Fields that they set, where they set fields only: what is made or removed is only remembered as done. */
  played: Omit<Played, 'on'>[];
}

export function doesOf(drafts: readonly LineDraft[]): Does {
  const updates = drafts.filter(({ action }) => action === 'update');
  return {
    lines: drafts.length,
    effect: drafts[0]?.effect ?? null,
    sets: drafts.map(conflictKey),
    touches: updates.map(({ entity, objectId, field }) => changeName(entity, objectId!, field)),
    played:
      updates.length < drafts.length
        ? []
        : updates.map(({ entity, objectId, field, newValue }) => ({
            entity,
            objectId: objectId!,
            field,
            value: newValue,
          })),
  };
}

/** What a night found. */
export interface DryFound {
  candidates: readonly DryCandidate[];
  /** What the account spent a week then, micros. */
  weekSpend: Micros;
  /** When a field was changed last by then, by `changeName`; null: never. */
  changedOn: (name: string) => Day | null;
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

/** Kinds that may come again on new evidence: what they set is known on the nights after. */
const moving: readonly RoutineKind[] = ['bids', 'placements', 'budgets', 'hours', 'stages'];

export class DryRun {
  readonly nights: DryNight[] = [];
  private readonly taken = new Set<string>();
  private readonly fields = new Map<string, Played>();
  private readonly days: { day: Day; lines: number; spend: Micros }[] = [];
  private sums = { spend: 0, orders: 0, sales: 0, profit: 0 };
  private squares = { spend: 0, orders: 0, sales: 0, profit: 0 };
  private worth = 0;
  private untold = 0;
  private isProfitKnown = true;

  constructor(
    private readonly routine: Routine,
    private readonly stretch: Window,
  ) {}

  /** Its first night. */
  get from(): Day {
    return this.stretch.from;
  }

  /** Fields as they stand by what was played. */
  get played(): Played[] {
    return [...this.fields.values()];
  }

  /** Whether it is due on a night: at figures, or on a day of the week. */
  isDue(day: Day): boolean {
    const { time } = this.routine;
    return time.on === 'figures' || time.weekdays.includes((new Date(`${day}T00:00Z`).getUTCDay() + 6) % 7);
  }

  /** Plays a night. */
  night(day: Day, { candidates, weekSpend, changedOn }: DryFound): void {
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
    const sets = new Set<string>();
    for (const one of candidates) {
      if (this.heldOn(day, one, changedOn, sets)) left++;
      else if (allowance.take({ lines: one.lines, spend: Math.abs(one.effect?.spend ?? 0) })) beyond++;
      else {
        taken.push(one);
        for (const name of one.sets) sets.add(name);
      }
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

  /** What stands against a finding; `sets`: what others of the night set already. */
  private heldOn(
    day: Day,
    one: DryCandidate,
    changedOn: DryFound['changedOn'],
    sets: ReadonlySet<string>,
  ): Held | null {
    // What was made or mended once stands, however often its evidence comes back.
    if (!moving.includes(one.kind) && this.taken.has(one.key))
      return { by: 'gone', why: 'It was done on an earlier night.' };
    const held =
      heldBack(one, this.routine, day) ?? changedLately(one.touches, changedOn, this.routine.wait, day);
    if (held) return held;
    if (one.lines === 0) return { by: 'gone', why: 'Nothing of it is left to do.' };
    return one.sets.some((name) => sets.has(name))
      ? { by: 'other_routine', why: 'Another finding of this night, worth more, sets the same.' }
      : null;
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

  private take({ key, played, effect, worth }: DryCandidate, day: Day): void {
    this.taken.add(key);
    for (const one of played)
      this.fields.set(`${one.entity}:${one.objectId}:${one.field}`, { ...one, on: day });
    const weeks = daysBetween(day, this.stretch.to) / 7;
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
