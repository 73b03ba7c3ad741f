import { hoursOfDay, hoursOfWeek } from '../account/schedule.ts';
import { usualResponse } from '../effect/response.ts';
import { noCounts, type HourFactors, type HourUnit } from './beliefs.ts';
import type { HourGround } from './outcome.ts';

/** Accounts by the time of the week, made from what their times truly sell. */

export function seeded(seed: number): () => number {
  let state = (seed * 2_654_435_761) % 2_147_483_647 || 1;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}

export function poisson(mean: number, random: () => number): number {
  if (mean > 60) {
    const z = Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random());
    return Math.max(0, Math.round(mean + Math.sqrt(mean) * z));
  }
  let [count, left] = [0, random()];
  for (const floor = Math.exp(-mean); left > floor; left *= random()) count++;
  return count;
}

/** A campaign that was clicked `clicks` times an hour over some weeks, and sells `perClick` times what its times make of it. */
export function unitOf(
  id: string,
  sku: string,
  { weeks, clicks, perClick }: { weeks: number; clicks: number; perClick: number },
  truth: (at: number) => number,
  random: () => number,
): HourUnit {
  const counts = noCounts();
  for (let at = 0; at < hoursOfWeek; at++) {
    const own = poisson(clicks * weeks, random);
    const orders = poisson(own * perClick * truth(at), random);
    counts.clicks[at] = own;
    counts.spend[at] = own * 500_000;
    counts.orders[at] = counts.grown[at] = orders;
    counts.sales[at] = orders * 20_000_000;
  }
  return { id, sku, counts };
}

/** Factors of weekdays and hours that are known to a spread. */
export function factorsOf(
  weekdays: readonly number[],
  spread: number,
  hours: readonly number[] = Array<number>(hoursOfDay).fill(1),
): HourFactors {
  const times = (list: readonly number[]) => list.map((factor) => ({ factor, spread }));
  return {
    weekdays: times(weekdays),
    hours: times(hours),
    week: Array.from({ length: hoursOfWeek }, (_, at) => ({
      factor: weekdays[Math.floor(at / hoursOfDay)]! * hours[at % hoursOfDay]!,
      spread,
    })),
  };
}

/** A campaign of 1,680 clicks a week at 0.50, evenly over all hours; at theta a click may cost what it bids. */
export const groundOf = (factors: HourFactors, more: Partial<HourGround> = {}): HourGround => ({
  clicks: Array<number>(hoursOfWeek).fill(10),
  spend: Array<number>(hoursOfWeek).fill(5_000_000),
  bid: 700_000,
  earns: 2_000_000,
  perClick: 0.1,
  theta: 0.35,
  isDry: false,
  response: usualResponse,
  factors,
  ...more,
});
