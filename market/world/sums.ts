import type { Candidate } from './account.ts';
import type { RankSum } from './ranks.ts';

export interface AdSum {
  targetId: string;
  term: string;
  placement: number;
  impressions: number;
  clicks: number;
  spend: number;
}

export interface Order {
  hour: number;
  targetId: string;
  term: string;
  placement: number;
  sku: string;
  units: number;
  sales: number;
  delay: number;
  /** The picture and title that were clicked, where the ad group has some. */
  shown: Shown | null;
}

/** A picture with a title as an ad group shows them. */
export interface Shown {
  adGroupId: string;
  picture: string;
  title: string;
}

export interface CreativeSum extends Shown {
  impressions: number;
  clicks: number;
  spend: number;
}

export interface HourSum {
  campaignId: string;
  hour: number;
  impressions: number;
  clicks: number;
  spend: number;
  minutes: number;
}

export interface ProductSum {
  sku: string;
  sessions: number;
  organicOrders: number;
  organicUnits: number;
  organicSales: number;
}

/** A day, or what has gone of it, as it is reported. */
export interface DayResult {
  ads: AdSum[];
  orders: Order[];
  hours: HourSum[];
  creatives: CreativeSum[];
  products: ProductSum[];
  ranks: RankSum[];
}

/** What has happened in a day so far, row by row as it is kept and reported. */
export interface Tally {
  ads: AdSum[];
  orders: Order[];
  hours: HourSum[];
  creatives: CreativeSum[];
  /** Sessions from ads, a product each. */
  sessions: number[];
  /** Orders from ads by "product:query". */
  wonFrom: Record<string, number>;
  /** Ads shown and the sum of their positions, by "product:query" of the keywords whose positions are told. */
  places: Record<string, [shown: number, positions: number]>;
}

export const emptyTally = (products: number): Tally => ({
  ads: [],
  orders: [],
  hours: [],
  creatives: [],
  sessions: new Array<number>(products).fill(0),
  wonFrom: {},
  places: {},
});

/** Finds the row of a tally that an event belongs to, or begins one. */
export class Rows {
  /** By what was searched, target and placement. */
  private readonly adsOf = new Map<string, Map<string, (AdSum | undefined)[]>>();
  private readonly hoursOf = new Map<string, HourSum>();
  private readonly creativesOf = new Map<string, CreativeSum>();

  constructor(private readonly tally: Tally) {
    for (const sum of tally.ads) this.adsAt(sum.term, sum.targetId)[sum.placement] = sum;
    for (const sum of tally.hours) this.hoursOf.set(`${sum.campaignId}:${sum.hour}`, sum);
    for (const sum of tally.creatives)
      this.creativesOf.set(`${sum.adGroupId}\t${sum.picture}\t${sum.title}`, sum);
  }

  private adsAt(term: string, targetId: string): (AdSum | undefined)[] {
    let ofTerm = this.adsOf.get(term);
    if (!ofTerm) this.adsOf.set(term, (ofTerm = new Map()));
    let sums = ofTerm.get(targetId);
    if (!sums) ofTerm.set(targetId, (sums = []));
    return sums;
  }

  ad(term: string, { target }: Candidate, placement: number): AdSum {
    const sums = this.adsAt(term, target.id);
    let sum = sums[placement];
    if (!sum) {
      sum = { targetId: target.id, term, placement, impressions: 0, clicks: 0, spend: 0 };
      sums[placement] = sum;
      this.tally.ads.push(sum);
    }
    return sum;
  }

  hour(campaignId: string, hour: number): HourSum {
    const key = `${campaignId}:${hour}`;
    const known = this.hoursOf.get(key);
    if (known) return known;
    const sum = { campaignId, hour, impressions: 0, clicks: 0, spend: 0, minutes: 60 };
    this.hoursOf.set(key, sum);
    this.tally.hours.push(sum);
    return sum;
  }

  creative(adGroupId: string, picture: string, title: string): CreativeSum {
    const key = `${adGroupId}\t${picture}\t${title}`;
    let sum = this.creativesOf.get(key);
    if (!sum) {
      sum = { adGroupId, picture, title, impressions: 0, clicks: 0, spend: 0 };
      this.creativesOf.set(key, sum);
      this.tally.creatives.push(sum);
    }
    return sum;
  }
}
