/** Kinds of markets: what an account of each is like. Ranges are drawn from evenly, per market. */
export interface Family {
  name: string;
  targets: number;
  products: number;
  targetAcos: [number, number];
  /** Median of a target's click opportunities a day were every auction won; and their spread in natural logs. */
  opportunities: [number, number];
  opportunitySpread: number;
  conversion: [number, number];
  law: 'gamma' | 'lognormal' | 'two groups';
  /** Spread of the law: shape of the gamma, sigma of the lognormal, odds of the better group. */
  lawSpread: [number, number];
  junk: number;
  rivals: [number, number];
  rivalSpread: [number, number];
  /** How dear rivals are: the median of their values over a product's mean revenue per click. */
  dearness: [number, number];
  /** Weekly standard deviation of the drift, in natural logs. */
  rivalDrift: number;
  conversionDrift: number;
  /** Mean delay of an order, days; never over 14. */
  delay: [number, number];
  /** How often a product runs out in a week. */
  runsOut: number;
  /** Level of the bids at the start over what would be right for the average row. */
  startLevel: [number, number];
  startSpread: number;
  historyDays: number;
  /** Targets are shown in three placements, of which each sells and costs otherwise. */
  placed?: true;
}

const normal: Family = {
  name: 'normal',
  targets: 300,
  products: 5,
  targetAcos: [0.2, 0.35],
  opportunities: [1, 2.5],
  opportunitySpread: 2,
  conversion: [0.06, 0.14],
  law: 'gamma',
  lawSpread: [1.5, 4],
  junk: 0.08,
  rivals: [3, 9],
  rivalSpread: [0.4, 0.8],
  dearness: [0.09, 0.26],
  rivalDrift: 0.04,
  conversionDrift: 0.03,
  delay: [1, 2.5],
  runsOut: 0.01,
  startLevel: [0.6, 1.5],
  startSpread: 0.5,
  historyDays: 60,
};

/** The last one is kept aside: nothing was tuned on it. */
export const families: readonly Family[] = [
  normal,
  { ...normal, name: 'sparse', opportunities: [0.12, 0.3], targets: 400 },
  { ...normal, name: 'very sparse', opportunities: [0.02, 0.05], targets: 500 },
  {
    ...normal,
    name: 'wild',
    law: 'two groups',
    lawSpread: [0.2, 0.4],
    junk: 0.2,
    opportunitySpread: 2.3,
    rivalDrift: 0.1,
    conversionDrift: 0.08,
    runsOut: 0.03,
    startSpread: 0.9,
  },
  { ...normal, name: 'tight', targetAcos: [0.1, 0.18], dearness: [0.06, 0.16], startLevel: [0.9, 2.2] },
  {
    ...normal,
    name: 'slow',
    law: 'lognormal',
    lawSpread: [0.6, 1],
    delay: [3, 6],
    opportunities: [1, 3],
    conversion: [0.03, 0.09],
  },
];

/** Markets with placements: kinds of the same that differ in what is known of them. */
export const placedFamilies: readonly Family[] = families
  .filter(({ name }) => ['normal', 'sparse', 'wild', 'slow'].includes(name))
  .map((family) => ({ ...family, placed: true }));
