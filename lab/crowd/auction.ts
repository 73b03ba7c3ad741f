import quantile from '@stdlib/stats-base-dists-normal-quantile';

/**
 * The highest of k rivals whose values are lognormal and drawn anew in each auction. Whoever bids above it wins and
 * pays it. Everything is tabled over the logarithm of the bid against the rivals' median, in units of their spread.
 */
export interface Crowd {
  /** Chance that a bid wins. */
  wins: (bid: number, median: number) => number;
  /** What a won click costs on average at this bid. */
  price: (bid: number, median: number) => number;
  /** The price of one won click, `u` between 0 and 1. */
  draw: (bid: number, median: number, u: number) => number;
}

const cells = 400;
const [from, to] = [-6, 6];

/** `least` is the reserve: nobody pays less, and a bid below it is never shown. */
export function makeCrowd(rivals: number, spread: number, least: number): Crowd {
  const chance = new Float64Array(cells + 1);
  const cost = new Float64Array(cells + 1);
  const normal = (z: number) => 0.5 * erfc(-z / Math.SQRT2);
  const at = (i: number) => from + ((to - from) * i) / cells;
  for (let i = 0; i <= cells; i++) chance[i] = normal(at(i)) ** rivals;
  // Sum of value x chance: the mean price is this over the chance to win.
  for (let i = 1; i <= cells; i++)
    cost[i] = cost[i - 1]! + Math.exp(spread * (at(i) + at(i - 1)) * 0.5) * (chance[i]! - chance[i - 1]!);
  const read = (table: Float64Array, z: number): number => {
    const x = ((z - from) / (to - from)) * cells;
    if (x <= 0) return 0;
    if (x >= cells) return table[cells]!;
    const i = Math.floor(x);
    return table[i]! + (x - i) * (table[i + 1]! - table[i]!);
  };
  const zOf = (bid: number, median: number) => Math.log(bid / median) / spread;
  const wins: Crowd['wins'] = (bid, median) => (bid < least ? 0 : read(chance, zOf(bid, median)));
  return {
    wins,
    price: (bid, median) => {
      const won = wins(bid, median);
      if (won <= 0) return least;
      // What rivals below the reserve would have set costs the reserve.
      const below = wins(least, median);
      const above = read(cost, zOf(bid, median)) - read(cost, zOf(least, median));
      return (below * least + Math.max(0, above) * median) / won;
    },
    draw: (bid, median, u) => {
      const share = u * wins(bid, median);
      if (share <= 0) return least;
      return Math.max(
        least,
        Math.min(bid, median * Math.exp(spread * quantile(share ** (1 / rivals), 0, 1))),
      );
    },
  };
}

/** Complementary error function (Numerical Recipes, 6.2.2; to 1e-7). */
function erfc(x: number): number {
  const z = Math.abs(x);
  const t = 2 / (2 + z);
  const terms = [
    -1.26551223, 1.00002368, 0.37409196, 0.09678418, -0.18628806, 0.27886807, -1.13520398, 1.48851587,
    -0.82215223, 0.17087277,
  ];
  let sum = 0;
  for (let i = terms.length - 1; i >= 0; i--) sum = terms[i]! + t * sum;
  const value = t * Math.exp(-z * z + sum);
  return x >= 0 ? value : 2 - value;
}
