/**
 * What a product's campaigns catch of each other's missed clicks: of one product one ad is shown for a search, so that
 * where the first is gone the next one stands in. Told by the account itself: on days on which campaigns ran dry early,
 * their product's others had more clicks at the same hours than on days on which they lasted. Who catches is taken to be
 * as much as it usually has of the product's clicks: of what one misses, all others together would catch `share`, and those
 * with budget their part of that.
 */
export interface Regained {
  /** Part of missed clicks that is caught, 0 to 1, over all, with its standard deviation, and by SKU. */
  share: number;
  spread: number;
  products: Readonly<Record<string, number>>;
}

/** One hour of one day of one product. */
export interface ProductHour {
  sku: string;
  day: string;
  hour: number;
  /** Clicks of its campaigns that had budget all of the hour, and what these have at that hour of the week on the mean. */
  clicks: number;
  usual: number;
  /** What those without budget would have had on the mean. */
  missed: number;
}

/** Before anything is told: what the laboratory's Quaysides show. */
export const usualShare = 0.6;
/** So much of squared missed clicks weighs as much as that; and a product's own beside the account's. */
const usualWeight = 100;
const ownWeight = 100;
const bounds = [0, 0.95] as const;

const clampShare = (share: number): number => Math.min(bounds[1], Math.max(bounds[0], share));

/**
 * Least squares of what the others had beyond their usual on what was missed, within hours of the day and products: how
 * busy a day was is told by its hours before anything ran dry. Both are held to what days differ in, not hours.
 */
export function regainedOf(hours: readonly ProductHour[]): Regained {
  const days = new Map<string, { clicks: number; usual: number }>();
  for (const { sku, day, clicks, usual, missed } of hours) {
    if (missed > 0) continue;
    const key = `${sku}|${day}`;
    const known = days.get(key) ?? { clicks: 0, usual: 0 };
    known.clicks += clicks;
    known.usual += usual;
    days.set(key, known);
  }
  const levelOf = (sku: string, day: string): number => {
    const known = days.get(`${sku}|${day}`);
    // A morning's few clicks say little of its day.
    return known ? (known.clicks + shrink) / (known.usual + shrink) : 1;
  };
  const cells = new Map<string, { x: number; y: number }[]>();
  for (const { sku, day, hour, clicks, usual, missed } of hours) {
    const level = levelOf(sku, day);
    const key = `${sku}|${hour}`;
    const able = usual + missed > 0 ? usual / (usual + missed) : 0;
    const point = { x: missed * level * able, y: clicks - usual * level };
    const known = cells.get(key);
    if (known) known.push(point);
    else cells.set(key, [point]);
  }
  const sums = new Map<string, { xx: number; xy: number; yy: number; n: number }>();
  for (const [key, points] of cells) {
    const sku = key.slice(0, key.lastIndexOf('|'));
    const [x, y] = [mean(points, (one) => one.x), mean(points, (one) => one.y)];
    const own = sums.get(sku) ?? { xx: 0, xy: 0, yy: 0, n: 0 };
    for (const point of points) {
      own.xx += (point.x - x) ** 2;
      own.xy += (point.x - x) * (point.y - y);
      own.yy += (point.y - y) ** 2;
      own.n++;
    }
    sums.set(sku, own);
  }
  const all = [...sums.values()];
  const total = (name: 'xx' | 'xy' | 'yy' | 'n') => all.reduce((sum, one) => sum + one[name], 0);
  const share = clampShare((total('xy') + usualWeight * usualShare) / (total('xx') + usualWeight));
  const noise = total('n') > 0 ? total('yy') / total('n') : 1;
  return {
    share,
    spread: Math.sqrt(Math.max(noise, 0.1) / (total('xx') + usualWeight)),
    products: Object.fromEntries(
      [...sums].map(([sku, { xx, xy }]) => [sku, clampShare((xy + ownWeight * share) / (xx + ownWeight))]),
    ),
  };
}

const shrink = 20;

const mean = <T>(list: readonly T[], of: (one: T) => number): number =>
  list.reduce((sum, one) => sum + of(one), 0) / list.length;

export const regainedBy = ({ share, products }: Regained, sku: string | null): number =>
  (sku === null ? undefined : products[sku]) ?? share;
