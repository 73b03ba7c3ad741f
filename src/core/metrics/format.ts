import { units, type Micros } from './money.ts';

/** Numbers as people read them. One place, so that screen, sentence and sheet say the same. */
/** What rounds to nothing has no sign. */
const two = new Intl.NumberFormat('en-IE', {
  minimumFractionDigits: 2,
  maximumFractionDigits: 2,
  signDisplay: 'negative',
});
const whole = new Intl.NumberFormat('en-IE', { maximumFractionDigits: 0 });
const short = new Intl.NumberFormat('en-IE', { maximumFractionDigits: 1 });
const three = new Intl.NumberFormat('en-IE', { maximumSignificantDigits: 3 });

/**
 * @example money(1_234_500_000) // '1,234.50'
 * @example money(-1_000) // '0.00'
 */
export const money = (value: Micros): string => two.format(units(value));

/** With a sign; for changes. */
export const signedMoney = (value: Micros): string => {
  const text = two.format(Math.abs(units(value)));
  return text === '0.00' ? text : `${value < 0 ? '−' : '+'}${text}`;
};

export const count = (value: number): string => whole.format(value);

/**
 * A number of things: "1 click", "12 clicks".
 * @example counted(1, 'click') // '1 click'
 * @example counted(1200, 'click') // '1,200 clicks'
 */
export const counted = (value: number, one: string, many = `${one}s`): string =>
  `${count(value)} ${value === 1 ? one : many}`;

/** At most one decimal: weighted counts and expected orders. */
export const decimal = (value: number): string => short.format(value);

/** The same with a sign; for changes. */
export const signedDecimal = (value: number): string =>
  `${value < 0 ? '−' : '+'}${short.format(Math.abs(value))}`;

export const significant = (value: number): string => three.format(value);

/**
 * A share as per cent: whole from 10 % on. "no sales" for an infinite ACOS, a dash for none.
 * @example percent(0.2345) // '23 %'
 * @example percent(0.077) // '7.7 %'
 * @example percent(Infinity) // 'no sales'
 * @example percent(null) // '–'
 */
export function percent(share: number | null): string {
  if (share === null) return '–';
  if (!Number.isFinite(share)) return 'no sales';
  const value = share * 100;
  return `${Math.abs(value) < 10 && value !== 0 ? short.format(value) : whole.format(value)} %`;
}
