import { normal, type Random } from './random.ts';

/** The 24 hours' parts of a day's demand, in no unit. */
export const hourShares = [
  14, 9, 6, 4, 4, 6, 14, 26, 38, 46, 50, 52, 54, 52, 50, 50, 54, 58, 66, 76, 82, 74, 52, 30,
];
export const hourTotal = hourShares.reduce((a, b) => a + b);
/** Sunday first. On Sundays people look and do not buy. */
export const weekdayDemand = [1.08, 1.02, 0.98, 0.97, 0.96, 0.94, 1.05];
export const weekdayConversion = [0.62, 1.04, 1.08, 1.08, 1.06, 1, 1.05];
/** People who look at night buy less, in the evening a little more. */
export const hourConversion = (hour: number): number =>
  hour >= 18 && hour <= 22 ? 1.08 : hour < 7 ? 0.8 : 1;
/** Share of orders that arrive 0, 1, 2 ... 13 days after the click. */
const delays = [0.45, 0.25, 0.12, 0.07, 0.04, 0.03, 0.018, 0.008, 0.005, 0.003, 0.002, 0.002, 0.001, 0.001];

export const round2 = (value: number) => Math.round(value * 100) / 100;

export function poisson(mean: number, random: Random): number {
  if (mean > 40) return Math.max(0, Math.round(mean + Math.sqrt(mean) * normal(random)));
  const floor = Math.exp(-mean);
  let k = 0;
  for (let p = random(); p > floor; p *= random()) k++;
  return k;
}

/** Days until an order is known. */
export function delayOf(random: Random): number {
  let left = random();
  for (let day = 0; day < delays.length; day++) {
    left -= delays[day]!;
    if (left < 0) return day;
  }
  return delays.length - 1;
}
