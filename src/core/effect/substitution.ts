import type { Objects, Pairs } from '../account/store.ts';

/**
 * Targets of one product that answer the same terms take clicks from each other: one ad is shown per product and search,
 * that of the highest bid. So a raise wins less for the product than for the target, and those it is taken from lose what
 * nobody did to them (decision 017).
 *
 * Clicks of a target on a term are its share of the product's. With bids moved by x (ln of new over old), its own and
 * those of the product's other targets, ln of its clicks moves by e X + s (x - X), X being the mean of both by their
 * shares (constant elasticity of substitution): e is how the product answers, s how the share does.
 */
export interface Substitution {
  /** s: elasticity of a target's share of what its product is clicked for. */
  share: number;
  /** Of the clicks that a product gets on a term, the share that goes to its other targets, by SKU; and over all. */
  overlap: number;
  products: Readonly<Record<string, number>>;
}

export const noSubstitution: Substitution = { share: 2, overlap: 0, products: {} };

export const overlapOf = (
  { overlap, products }: Pick<Substitution, 'overlap' | 'products'>,
  sku: string | null,
): number => (sku === null ? undefined : products[sku]) ?? overlap;

/** What was done to the bids of a product around a day: clicks of the time before, and what they came at. */
export interface ProductMoves {
  /** Clicks before, and these times ln of new over old bid; unmoved bids count 0. */
  clicks: number;
  moved: number;
  /** Clicks, before and after, of the targets whose bids stayed. */
  untouched: { before: number; after: number };
}

export const noMoves: ProductMoves = { clicks: 0, moved: 0, untouched: { before: 0, after: 0 } };

/** Mean move of a product's other targets, by their clicks: ln of new over old bid. */
export function othersMove(product: ProductMoves, own: { clicks: number; move: number }): number {
  const clicks = product.clicks - own.clicks;
  return clicks > 0 ? (product.moved - own.clicks * own.move) / clicks : 0;
}

/** How far a target's bid moved apart from those that answer the same terms: overlap x (own - others'). */
export const movedApart = (overlap: number, own: number, others: number): number => overlap * (own - others);

/** ln of what substitution alone does to the clicks of a target that moved so far apart, beside what its product wins. */
export const substituted = (
  apart: number,
  elasticity: number,
  { share }: Pick<Substitution, 'share'>,
): number => (share - elasticity) * apart;

/** Clicks of what nobody touched, before and after, and how far their bids stayed behind those of their products. */
export interface Untouched {
  before: number;
  after: number;
  apart: number;
}

export function untouchedApart(
  products: Iterable<readonly [sku: string | null, ProductMoves]>,
  known: Pick<Substitution, 'overlap' | 'products'>,
): Untouched {
  const sums: Untouched = { before: 0, after: 0, apart: 0 };
  for (const [sku, product] of products) {
    const { before, after } = product.untouched;
    sums.before += before;
    sums.after += after;
    const others = othersMove(product, { clicks: 0, move: 0 });
    sums.apart += before * movedApart(overlapOf(known, sku), 0, others);
  }
  return { ...sums, apart: sums.before > 0 ? sums.apart / sums.before : 0 };
}

/**
 * Clicks of what nobody touched, after as they would have been had no other target of their product moved. These tell how
 * a market moved; as they came, they tell what was taken from them.
 */
export function untouchedAlone(
  { before, after, apart }: Untouched,
  elasticity: number,
  substitution: Pick<Substitution, 'share'>,
): { before: number; after: number } {
  return { before, after: after * Math.exp(-substituted(apart, elasticity, substitution)) };
}

/** Clicks of one term, of one product: all, and the sum of the squares of each target's. */
interface Shared {
  clicks: number;
  squares: number;
}

/** Clicks in pairs behind an overlap until it stands for itself: the account's own counts as so many. */
const overlapWeight = 50;

/**
 * Overlap of each product: of two clicks on one of its terms, how often they are not of one target. Pairs of clicks, not
 * shares: a term that was clicked once or twice tells of no second target, though there may be one.
 *
 * @param clicks Clicks of each pair, without those of terms that a negative keeps away by now.
 */
export function overlaps(
  { targets, adGroups, products }: Pick<Objects, 'targets' | 'adGroups' | 'products'>,
  pairs: Pick<Pairs, 'target' | 'term'>,
  clicks: ArrayLike<number>,
): Pick<Substitution, 'overlap' | 'products'> {
  const places = new Map(products.map(({ sku }, i) => [sku, i]));
  const productOf = Int32Array.from(targets, ({ adGroup }) => {
    const { sku } = adGroups[adGroup]!;
    return sku === null ? -1 : (places.get(sku) ?? -1);
  });
  const width = products.length;
  const terms = new Map<number, Shared>();
  for (let row = 0; row < clicks.length; row++) {
    const own = clicks[row]!;
    const product = productOf[pairs.target[row]!]!;
    if (product < 0 || own <= 0) continue;
    const key = pairs.term[row]! * width + product;
    const known = terms.get(key);
    if (known) {
      known.clicks += own;
      known.squares += own * own;
    } else terms.set(key, { clicks: own, squares: own * own });
  }
  const other = new Float64Array(width);
  const all = new Float64Array(width);
  for (const [key, shared] of terms) {
    if (shared.clicks <= 1) continue;
    const apart = (shared.clicks ** 2 - shared.squares) / (shared.clicks - 1);
    other[key % width]! += Math.min(shared.clicks, Math.max(0, apart));
    all[key % width]! += shared.clicks;
  }
  const sum = (list: Float64Array) => list.reduce((total, one) => total + one, 0);
  const overlap = sum(other) / (sum(all) + overlapWeight);
  const found: Record<string, number> = {};
  products.forEach(({ sku }, i) => {
    if (all[i]! > 0) found[sku] = (other[i]! + overlapWeight * overlap) / (all[i]! + overlapWeight);
  });
  return { overlap, products: found };
}
