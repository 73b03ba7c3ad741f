import { mean, type Gamma } from '../evidence/gamma.ts';
import { hear, type Level, type LevelMean, type Likeness } from '../evidence/hierarchy.ts';
import { posterior } from '../evidence/prior.ts';
import { addSibling, noSiblings } from '../evidence/siblings.ts';

/** How much better a click sells in one placement than in another (domain, section 8). */

/** What a campaign was counted to have in one placement over the days of evidence. */
export interface PlacementCounts {
  placement: string;
  /** Weighted clicks and orders (domain, section 5). */
  n: number;
  y: number;
  /** As counted. */
  seenClicks: number;
  seenOrders: number;
}

export interface CampaignCounts {
  /** Of a campaign, or of a stream of one (streams.ts). */
  campaignId: string;
  /** Empty where it advertises nothing by itself. */
  sku: string;
  placements: readonly PlacementCounts[];
}

/** A placement of a campaign beside the campaign as a whole. */
export interface PlacementFactor {
  placement: string;
  /** r of the domain: its orders per click over the campaign's; 1 on the mean of the campaign's clicks. */
  factor: number;
  /** Standard deviation of its natural logarithm. */
  spread: number;
  /** Of the campaign's clicks. */
  share: number;
  /** What it would be without its own counts: what the product's other campaigns tell. */
  pooled: number;
  /** What of the factor counts as the placement's own, and its standard deviation: see `ownPart`. */
  own: number;
  ownSpread: number;
}

/**
 * How much of a factor, in logarithms, counts as the placement's own. Which targets and terms are clicked where is not
 * told, and better ones stand at the top: at the stand-in, clicks in the rest of search sell 0.6 of those at the top where
 * the placement itself makes 0.85 of them. So much of it, give or take half of that, is what moves with a bid (decision 023).
 */
export const ownPart = 0.7;

/** Before an account has told: campaigns of one product differ by 22 %, products by 32 %: 1 / sqrt(shape). */
const usual = { rows: 20, levels: 10 };
/** Factors and what campaigns sell on the whole are found in turn: first of all campaigns together, then of each. */
const roughPasses = 12;
const passes = 2;
/** Exposure is counted in thousandths of an expected order, so that whole numbers of it tell small campaigns apart. */
const perOrder = 1000;

interface Heard {
  products: Map<string, LevelMean>;
  account: LevelMean;
  likeness: Likeness;
}

/** Who sells how much more in one placement, heard over all campaigns; `expected`: orders of it if all sold alike. */
function heardOf(
  rows: readonly { sku: string; counts: PlacementCounts; perClick: number }[],
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
 * Factors of every campaign's placements. Orders are Poisson with the clicks, times what the campaign sells on the whole,
 * times the placement's own factor; a placement's factors are alike within a product, and products within the account
 * (domain, sections 5 and 8). What a campaign sells on the whole is read from its orders in all placements, given the
 * factors, and so in turn: a campaign that has most clicks where they sell best is not taken for a better one.
 */
export function placementFactors(campaigns: readonly CampaignCounts[]): Map<string, PlacementFactor[]> {
  const names = [...new Set(campaigns.flatMap(({ placements }) => placements.map((one) => one.placement)))];
  const beliefs = campaigns.map(({ placements }) => placements.map((): Gamma | null => null));
  const start = roughFactors(campaigns, names);
  const pooled = campaigns.map(({ placements }) => placements.map(({ placement }) => start.get(placement)!));
  const factorAt = (c: number, p: number): number => {
    const gamma = beliefs[c]![p]!;
    return gamma === null ? pooled[c]![p]! : mean(gamma) * perOrder;
  };
  /** How alike campaigns are in a placement hardly moves between passes: it is found once. */
  const likeness = new Map<string, Likeness>();
  for (let pass = 0; pass < passes; pass++) {
    const perClick = campaigns.map((campaign, c) => sellsOf(campaign, (p) => factorAt(c, p)));
    for (const name of names) {
      const places = campaigns.flatMap(({ placements }, c) => {
        const p = placements.findIndex((one) => one.placement === name);
        return p < 0 ? [] : [{ c, p }];
      });
      const heard = heardOf(
        places.map(({ c, p }) => ({
          sku: campaigns[c]!.sku,
          counts: campaigns[c]!.placements[p]!,
          perClick: perClick[c]!,
        })),
        likeness.get(name) ?? null,
      );
      likeness.set(name, heard.likeness);
      for (const { c, p } of places) {
        const { n, y } = campaigns[c]!.placements[p]!;
        const { mu, doubt } = heard.products.get(campaigns[c]!.sku) ?? heard.account;
        pooled[c]![p] = mu * perOrder;
        const prior = { mu, strength: heard.likeness.rows / mu, doubt };
        beliefs[c]![p] = posterior(prior, n * perClick[c]! * perOrder, y);
      }
    }
    const scale = meanFactor(campaigns, factorAt);
    if (scale > 0)
      for (let c = 0; c < campaigns.length; c++) {
        pooled[c] = pooled[c]!.map((one) => one / scale);
        beliefs[c] = beliefs[c]!.map((one) => one && { shape: one.shape, rate: one.rate * scale });
      }
  }
  return new Map(
    campaigns.map(({ campaignId, placements }, c) => [
      campaignId,
      ofCampaign(
        placements,
        placements.map((_, p) => ({
          factor: factorAt(c, p),
          spread: 1 / Math.sqrt(Math.max(1e-6, beliefs[c]![p]?.shape ?? usual.rows)),
          pooled: pooled[c]![p]!,
        })),
      ),
    ]),
  );
}

/** Orders per click of a campaign in a placement of factor 1. */
function sellsOf({ placements }: CampaignCounts, factorOf: (p: number) => number): number {
  let [orders, clicks] = [0, 0];
  for (let p = 0; p < placements.length; p++) {
    orders += placements[p]!.y;
    clicks += placements[p]!.n * factorOf(p);
  }
  return clicks > 0 ? orders / clicks : 0;
}

/** One factor for each placement, of all campaigns: where the search for those of each begins. */
function roughFactors(campaigns: readonly CampaignCounts[], names: readonly string[]): Map<string, number> {
  let found = new Map(names.map((name) => [name, 1]));
  for (let pass = 0; pass < roughPasses; pass++) {
    const sums = new Map(names.map((name) => [name, { orders: 0, expected: 0 }]));
    for (const campaign of campaigns) {
      const perClick = sellsOf(campaign, (p) => found.get(campaign.placements[p]!.placement)!);
      for (const { placement, n, y } of campaign.placements) {
        const sum = sums.get(placement)!;
        sum.orders += y;
        sum.expected += n * perClick;
      }
    }
    found = new Map([...sums].map(([name, { orders, expected }]) => [name, (orders + 1) / (expected + 1)]));
  }
  return found;
}

/** Mean factor over the account's clicks: it is 1 by definition. */
function meanFactor(
  campaigns: readonly CampaignCounts[],
  factorAt: (c: number, p: number) => number,
): number {
  let [clicks, weighted] = [0, 0];
  campaigns.forEach(({ placements }, c) =>
    placements.forEach(({ n }, p) => {
      clicks += n;
      weighted += n * factorAt(c, p);
    }),
  );
  return clicks > 0 ? weighted / clicks : 0;
}

/** Factors over the campaign's own mean; without a click its placements count alike. */
function ofCampaign(
  placements: readonly PlacementCounts[],
  found: readonly Pick<PlacementFactor, 'factor' | 'spread' | 'pooled'>[],
): PlacementFactor[] {
  const clicks = placements.reduce((sum, { n }) => sum + n, 0);
  const shares = placements.map(({ n }) => (clicks > 0 ? n / clicks : 1 / placements.length));
  const over = (of: (one: (typeof found)[number]) => number): number =>
    found.reduce((sum, one, p) => sum + shares[p]! * of(one), 0) || 1;
  const [own, siblings] = [over(({ factor }) => factor), over((one) => one.pooled)];
  const parts = found.map(({ factor }) => (factor / own) ** ownPart);
  const meanPart = parts.reduce((sum, part, p) => sum + shares[p]! * part, 0) || 1;
  return placements.map(({ placement }, p) => {
    const factor = found[p]!.factor / own;
    const { spread } = found[p]!;
    return {
      placement,
      factor,
      spread,
      share: shares[p]!,
      pooled: found[p]!.pooled / siblings,
      own: parts[p]! / meanPart,
      ownSpread: ownPart * Math.hypot(spread, 0.5 * Math.log(factor)),
    };
  });
}
