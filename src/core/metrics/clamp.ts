/**
 * The value, held within [low, high].
 * @example clamp(7, 1, 5) // 5
 */
export const clamp = (value: number, low: number, high: number): number =>
  Math.min(high, Math.max(low, value));
