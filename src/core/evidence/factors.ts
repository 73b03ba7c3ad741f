import { mean, type Gamma } from './gamma.ts';
import { hear, type Level, type LevelMean, type Likeness, type UsualLikeness } from './hierarchy.ts';
import { posterior } from './prior.ts';
import { addSibling, noSiblings } from './siblings.ts';

/** How much better a click sells in one part of a unit than in another: placements of a campaign, its weekdays, its hours. */

/** What a unit was counted to have in one of its cells. */
export interface CellCounts {
  cell: string;
  /** Weighted clicks and orders (domain, section 5). */
  n: number;
  y: number;
  /** As counted. */
  seenClicks: number;
  seenOrders: number;
}

export interface UnitCounts {
  id: string;
  /** Units of one product are alike; empty where it advertises nothing by itself. */
  sku: string;
  cells: readonly CellCounts[];
}

/** A cell beside its unit as a whole. */
export interface CellFactor {
  cell: string;
  /** Orders per click over the unit's; 1 on the mean of the unit's clicks. */
  factor: number;
  /** Standard deviation of its natural logarithm. */
  spread: number;
  /** Of the unit's clicks. */
  share: number;
  /** What it would be without its own counts: what the product's other units tell. */
  pooled: number;
}

/** What is believed before an account has told, in expected orders. */
export interface UsualFactors {
  /** How alike units of a product are in a cell, and products: 1 / sqrt of it is by how much they differ. */
  rows: number;
  levels: number;
  /** How surely a cell sells as the mean does before anything is counted; 0 where that is not believed at all. */
  sureOfOne?: number;
}

/** Factors and what units sell on the whole are found in turn: first of all units together, then of each. */
const roughPasses = 12;
const passes = 2;
/** Exposure is counted in thousandths of an expected order, so that whole numbers of it tell small units apart. */
const perOrder = 1000;

interface Heard {
  products: Map<string, LevelMean>;
  account: LevelMean;
  likeness: Likeness;
}

/** Who sells how much more in one cell, heard over all units; `expected`: orders of it if all sold alike. */
function heardOf(
  rows: readonly { sku: string; counts: CellCounts; perClick: number }[],
  usual: UsualLikeness,
  known: Likeness | null,
): Heard {
  const level = (): Level & { members: Level[] } => ({ siblings: noSiblings(), members: [] });
  const account = level();
  const products = new Map<string, Level>();
  for (const { sku, counts, perClick } of rows) {
    const n = counts.n * perClick * perOrder;
    let product = products.get(sku);
    if (!product) {
      products.set(sku, (product = level()));
      account.members.push(product);
    }
    const seen = Math.round(counts.seenClicks * perClick * perOrder);
    if (seen <= 0) continue;
    addSibling(product.siblings, n, counts.y, seen, counts.seenOrders);
    account.siblings.n += n;
    account.siblings.y += counts.y;
  }
  const { means, likeness } = hear(account, usual, known);
  return {
    account: means.get(account)!,
    products: new Map([...products].map(([sku, product]) => [sku, means.get(product)!])),
    likeness,
  };
}

/**
 * Factors of every unit's cells. Orders are Poisson with the clicks, times what the unit sells on the whole,
 * times the cell's own factor; a cell's factors are alike within a product, and products within the account
 * (domain, sections 5 and 8). What a unit sells on the whole is read from its orders in all cells, given the
 * factors, and so in turn: a unit that has most clicks where they sell best is not taken for a better one.
 */
export function cellFactors(
  units: readonly UnitCounts[],
  { rows, levels, sureOfOne = 0 }: UsualFactors,
): Map<string, CellFactor[]> {
  const usual: UsualLikeness = {
    rows,
    levels,
    ...(sureOfOne > 0 ? { top: { mu: 1 / perOrder, shape: sureOfOne } } : {}),
  };
  const places = new Map<string, { c: number; p: number }[]>();
  units.forEach(({ cells }, c) =>
    cells.forEach(({ cell }, p) => {
      const own = places.get(cell);
      if (own) own.push({ c, p });
      else places.set(cell, [{ c, p }]);
    }),
  );
  const names = [...places.keys()];
  const beliefs = units.map(({ cells }) => cells.map((): Gamma | null => null));
  const start = roughFactors(units, names);
  const pooled = units.map(({ cells }) => cells.map(({ cell }) => start.get(cell)!));
  const factorAt = (c: number, p: number): number => {
    const gamma = beliefs[c]![p]!;
    return gamma === null ? pooled[c]![p]! : mean(gamma) * perOrder;
  };
  /** How alike units are in a cell hardly moves between passes: it is found once. */
  const likeness = new Map<string, Likeness>();
  for (let pass = 0; pass < passes; pass++) {
    const perClick = units.map((unit, c) => sellsOf(unit, (p) => factorAt(c, p)));
    for (const name of names) {
      const own = places.get(name)!;
      const heard = heardOf(
        own.map(({ c, p }) => ({
          sku: units[c]!.sku,
          counts: units[c]!.cells[p]!,
          perClick: perClick[c]!,
        })),
        usual,
        likeness.get(name) ?? null,
      );
      likeness.set(name, heard.likeness);
      for (const { c, p } of own) {
        const { n, y } = units[c]!.cells[p]!;
        const { mu, doubt } = heard.products.get(units[c]!.sku) ?? heard.account;
        pooled[c]![p] = mu * perOrder;
        const prior = { mu, strength: heard.likeness.rows / mu, doubt };
        beliefs[c]![p] = posterior(prior, n * perClick[c]! * perOrder, y);
      }
    }
    const scale = meanFactor(units, factorAt);
    if (scale > 0)
      for (let c = 0; c < units.length; c++) {
        pooled[c] = pooled[c]!.map((one) => one / scale);
        beliefs[c] = beliefs[c]!.map((one) => one && { shape: one.shape, rate: one.rate * scale });
      }
  }
  return new Map(
    units.map(({ id, cells }, c) => [
      id,
      overOwnMean(
        cells,
        cells.map((_, p) => ({
          factor: factorAt(c, p),
          spread: 1 / Math.sqrt(Math.max(1e-6, beliefs[c]![p]?.shape ?? rows)),
          pooled: pooled[c]![p]!,
        })),
      ),
    ]),
  );
}

/** Orders per click of a unit in a cell of factor 1. */
function sellsOf({ cells }: UnitCounts, factorOf: (p: number) => number): number {
  let [orders, clicks] = [0, 0];
  for (let p = 0; p < cells.length; p++) {
    orders += cells[p]!.y;
    clicks += cells[p]!.n * factorOf(p);
  }
  return clicks > 0 ? orders / clicks : 0;
}

/** One factor for each cell, of all units: where the search for those of each begins. */
function roughFactors(units: readonly UnitCounts[], names: readonly string[]): Map<string, number> {
  let found = new Map(names.map((name) => [name, 1]));
  for (let pass = 0; pass < roughPasses; pass++) {
    const sums = new Map(names.map((name) => [name, { orders: 0, expected: 0 }]));
    for (const unit of units) {
      const perClick = sellsOf(unit, (p) => found.get(unit.cells[p]!.cell)!);
      for (const { cell, n, y } of unit.cells) {
        const sum = sums.get(cell)!;
        sum.orders += y;
        sum.expected += n * perClick;
      }
    }
    found = new Map([...sums].map(([name, { orders, expected }]) => [name, (orders + 1) / (expected + 1)]));
  }
  return found;
}

/** Mean factor over the account's clicks: it is 1 by definition. */
function meanFactor(units: readonly UnitCounts[], factorAt: (c: number, p: number) => number): number {
  let [clicks, weighted] = [0, 0];
  units.forEach(({ cells }, c) =>
    cells.forEach(({ n }, p) => {
      clicks += n;
      weighted += n * factorAt(c, p);
    }),
  );
  return clicks > 0 ? weighted / clicks : 0;
}

/** Factors over the unit's own mean; without a click its cells count alike. */
function overOwnMean(
  cells: readonly CellCounts[],
  found: readonly Pick<CellFactor, 'factor' | 'spread' | 'pooled'>[],
): CellFactor[] {
  const clicks = cells.reduce((sum, { n }) => sum + n, 0);
  const shares = cells.map(({ n }) => (clicks > 0 ? n / clicks : 1 / cells.length));
  const over = (of: (one: (typeof found)[number]) => number): number =>
    found.reduce((sum, one, p) => sum + shares[p]! * of(one), 0) || 1;
  const [own, siblings] = [over(({ factor }) => factor), over((one) => one.pooled)];
  return cells.map(({ cell }, p) => {
    const { factor, spread, pooled } = found[p]!;
    return { cell, factor: factor / own, spread, share: shares[p]!, pooled: pooled / siblings };
  });
}
