import cdf from '@stdlib/stats-base-dists-gamma-cdf';
import pdf from '@stdlib/stats-base-dists-gamma-pdf';
import quantile from '@stdlib/stats-base-dists-gamma-quantile';

/** A Gamma distribution of orders per click: shape in orders, rate in clicks. */
export interface Gamma {
  shape: number;
  rate: number;
}

/**
 * Orders per click on average.
 * @example mean({ shape: 9, rate: 100 }) // 0.09
 */
export const mean = ({ shape, rate }: Gamma): number => shape / rate;

/** P(lambda < x). */
export const below = (gamma: Gamma, x: number): number =>
  x <= 0 ? 0 : x === Infinity ? 1 : cdf(x, gamma.shape, gamma.rate);

/** The lambda below which a share `p` of the belief lies. */
export const quantileOf = (gamma: Gamma, p: number): number => quantile(p, gamma.shape, gamma.rate);

export const density = (gamma: Gamma, x: number): number => pdf(x, gamma.shape, gamma.rate);
