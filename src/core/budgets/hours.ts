import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';

/** When campaigns had budget left, in parts of a day's clicks (domain, section 9). */

/** What a campaign had in one hour of the week, over all its days: from Monday, 1, to Sunday, 7. */
export interface CampaignHour {
  campaignId: string;
  weekday: number;
  hour: number;
  clicks: number;
  /** Hours with budget, and without. */
  shown: number;
  missed: number;
}

/** A campaign's day. Money in micros. */
export interface CampaignDay {
  day: Day;
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  /** Minutes with budget left; null where they are not told. */
  minutes: number | null;
  /** Parts of an average day's clicks that fell into the time with budget, and without. */
  shown: number;
  missed: number;
}

/** Clicks that an hour of a weekday is shrunk by to that hour of all days. */
const shapeClicks = 10;
const hoursOfDay = 24;
const daysOfWeek = 7;
const hoursOfWeek = hoursOfDay * daysOfWeek;
/** Shares, and what is caught by them, settle in a few turns. */
const turns = 6;

/**
 * What part of an average day's clicks falls into each hour of the week: 168 numbers from Monday's first hour on, that sum
 * to seven. A campaign that runs dry leaves some of its clicks to its product's others, so that their evenings look busier
 * than shoppers are: what is caught (`regained`, a share, by campaign) is taken off. Where nothing is told, all hours are alike.
 *
 * @param productOf What of a campaign's missed clicks may be caught by others: those of one product.
 */
export function hourShares(
  hours: readonly CampaignHour[],
  productOf: (campaignId: string) => string | null,
  regained: (product: string | null) => number,
): number[] {
  let shares = Array<number>(hoursOfWeek).fill(1 / hoursOfDay);
  const campaigns = new Map<string, { product: string | null; clicks: number; cells: CampaignHour[] }>();
  for (const cell of hours) {
    const known = campaigns.get(cell.campaignId);
    if (known) {
      known.clicks += cell.clicks;
      known.cells.push(cell);
    } else {
      const product = productOf(cell.campaignId);
      campaigns.set(cell.campaignId, { product, clicks: cell.clicks, cells: [cell] });
    }
  }
  if (![...campaigns.values()].some(({ clicks }) => clicks > 0)) return shares;
  const placeOf = ({ weekday, hour }: CampaignHour) => (weekday - 1) * hoursOfDay + hour;
  for (let turn = 0; turn < turns; turn++) {
    const own = new Float64Array(hoursOfWeek);
    const able = new Float64Array(hoursOfWeek);
    for (const { product, clicks, cells } of campaigns.values()) {
      const time = cells.reduce((sum, cell) => sum + cell.shown * shares[placeOf(cell)]!, 0);
      if (time <= 0) continue;
      const rate = clicks / time;
      const caught = regained(product);
      for (const cell of cells) {
        const place = placeOf(cell);
        own[place]! += cell.clicks - caught * rate * shares[place]! * cell.missed;
        able[place]! += rate * cell.shown;
      }
    }
    shares = smoothed(own, able);
  }
  return shares;
}

/** Clicks by what could have brought them, hour by hour: each hour of a weekday drawn to that hour of all days. */
function smoothed(own: Float64Array, able: Float64Array): number[] {
  const ofHour = Array.from({ length: hoursOfDay }, (_, hour) => {
    let [clicks, time] = [0, 0];
    for (let at = hour; at < hoursOfWeek; at += hoursOfDay) {
      clicks += Math.max(0, own[at]!);
      time += able[at]!;
    }
    return time > 0 ? clicks / time : 0;
  });
  const raw = Array.from(own, (clicks, at) => {
    const usual = ofHour[at % hoursOfDay]!;
    return usual <= 0 ? 0 : (Math.max(0, clicks) + shapeClicks) / (able[at]! + shapeClicks / usual);
  });
  const all = sum(raw);
  return raw.map((share) => (share * daysOfWeek) / all);
}

const sum = (list: readonly number[]): number => list.reduce((all, one) => all + one, 0);
