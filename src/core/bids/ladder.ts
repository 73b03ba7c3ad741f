import { money, percent, significant } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';

/** One step of a ladder: from `above` times the goal up to the next one's. */
export interface Band {
  /** Multiple of the target ACOS from which on it holds. */
  above: number;
  /** Share by which a bid moves: 0.09 is 9 % up, -0.12 is 12 % down. */
  step: number;
  /** Orders that a row needs before it is moved at all. */
  orders: number;
}

/** Rows without an order have no ACOS: when something is done about them, and what (domain, section 6.4). */
export interface NoSales {
  /** Clicks without an order; null: those in which an average row would have sold with 90 %, 2.3 / mu. */
  clicks: number | null;
  /** Spend without an order that is enough by itself, micros; null: any. */
  spend: Micros | null;
  /** Share by which the bid is cut, or its rest at the floor. */
  step: number | 'rest';
}

export interface Ladder {
  /** Rising; the first begins at 0. */
  bands: Band[];
  noSales: NoSales;
}

/** The ladder of the guide (domain, section 6.1). */
export const usualLadder: Ladder = {
  bands: [
    { above: 0, step: 0.09, orders: 3 },
    { above: 0.75, step: 0, orders: 0 },
    { above: 1.4, step: -0.06, orders: 0 },
    { above: 2, step: -0.12, orders: 0 },
    { above: 3, step: -0.18, orders: 0 },
  ],
  noSales: { clicks: null, spend: null, step: -0.3 },
};

/** Sentences that say what is wrong with a ladder; none where it can be used. */
export function ladderProblems({ bands, noSales }: Ladder): string[] {
  const problems: string[] = [];
  if (bands.length === 0) return ['A ladder needs a step.'];
  if (bands[0]!.above !== 0) problems.push('The first step begins at 0 times the goal.');
  bands.forEach(({ above, step, orders }, at) => {
    const name = `Step ${at + 1}`;
    if (at > 0 && !(above > bands[at - 1]!.above))
      problems.push(`${name} begins at ${significant(above)} times the goal, not above the one before.`);
    if (!(step > -1 && step <= 2)) problems.push(`${name} moves a bid by ${percent(step)}: -99 % to 200 %.`);
    if (at > 0 && step > bands[at - 1]!.step)
      problems.push(`${name} moves a bid further up than the one before, though its ACOS is worse.`);
    if (!Number.isInteger(orders) || orders < 0) problems.push(`${name} needs a whole number of orders.`);
  });
  if (noSales.clicks !== null && !(noSales.clicks >= 1))
    problems.push('Without an order at least one click is needed.');
  if (noSales.spend !== null && !(noSales.spend > 0))
    problems.push('Without an order some spend above 0 is needed.');
  if (noSales.step !== 'rest' && !(noSales.step > -1 && noSales.step < 0))
    problems.push(`Without an order a bid is cut by 1 % to 99 %, not moved by ${percent(noSales.step)}.`);
  return problems;
}

/** What a row did in the window. Money in micros. */
export interface BandRow {
  clicks: number;
  orders: number;
  spend: Micros;
  sales: Micros;
}

/** The one step that a row gets. */
export interface BandStep {
  /** Place of its band; null where it has no order. */
  band: number | null;
  /** Its ACOS as a multiple of the goal; null without sales. */
  ratio: number | null;
  /** Share by which the bid moves, or its rest. */
  step: number | 'rest';
  /** In words; said where somebody asks. */
  why: () => string;
}

/** Clicks in which an average row would have sold with 90 %. */
const sureClicks = (mu: number): number => Math.ceil(Math.log(10) / mu);

/**
 * The one band a row is in, and its step (domain, section 6.1); null while it has neither an order nor enough clicks or
 * spend without one.
 *
 * For example, at a goal of 30 %: 90.00 spent for 150.00 is 60 %, twice the goal: 12 % down.
 *
 * @param mu Orders per click of an average row beside it.
 */
export function bandStep(
  { bands, noSales }: Ladder,
  row: BandRow,
  targetAcos: number,
  mu: number,
): BandStep | null {
  if (row.sales > 0) {
    const ratio = row.spend / row.sales / targetAcos;
    const at = bands.findLastIndex(({ above }) => ratio >= above);
    const { step, orders } = bands[at]!;
    const told = () => {
      const until = bands[at + 1]?.above;
      const where = until === undefined ? `above ${bands[at]!.above} ×` : `${bands[at]!.above} to ${until} ×`;
      return `${percent(row.spend / row.sales)} is ${significant(ratio)} × the goal of ${percent(targetAcos)}: the band ${where}`;
    };
    return row.orders >= orders
      ? { band: at, ratio, step, why: told }
      : { band: at, ratio, step: 0, why: () => `${told()}, which takes ${orders} orders` };
  }
  const clicks = noSales.clicks ?? (mu > 0 ? sureClicks(mu) : Infinity);
  const isSpent = noSales.spend !== null && row.spend >= noSales.spend;
  if (row.clicks < clicks && !isSpent) return null;
  const why = () =>
    isSpent
      ? `${money(row.spend)} spent without an order, ${money(noSales.spend!)} is the most`
      : `${row.clicks} clicks without an order, ${clicks} are enough`;
  return { band: null, ratio: null, step: noSales.step, why };
}
