/** Money inside Mowing: a whole number of micros (millionths of the currency unit). */
export type Micros = number;

export const micros = (units: number): Micros => Math.round(units * 1e6);

/**
 * Currency units, for reading and for formatting at the edge only.
 * @example units(1_250_000) // 1.25
 */
export const units = (value: Micros): number => value / 1e6;

/**
 * Rounds to a whole number of steps, half up; `step` and the result in micros.
 * @example toStep(437_000, 10_000) // 440_000
 */
export const toStep = (value: Micros, step: Micros): Micros => Math.round(value / step) * step;
