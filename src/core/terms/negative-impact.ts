import type { Micros } from '../metrics/money.ts';
import type { AccountMatcher } from './matcher.ts';
import type { Objects, Pairs, SumsColumns } from '../account/store.ts';

/** What a negative keeps away, told by what its terms did where they could still be met. */
export interface Impact {
  /** Terms of the window that it blocks and that its place would catch without it. */
  terms: number;
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
}

export interface ImpactTerm extends Omit<Impact, 'terms'> {
  term: string;
  /** Ad groups of the product that caught it in the window. */
  places: string[];
  /** What would catch it where the negative stands. */
  by: string;
}

export interface ImpactGround {
  objects: Objects;
  pairs: Pairs;
  window: SumsColumns;
  matcher: AccountMatcher;
}

/** The products of the place that a negative stands in, and the ad groups that could catch something there. */
interface Scope {
  skus: ReadonlySet<string | null>;
  adGroups: ReadonlySet<number>;
  automatic: string | null;
}

function scopesOf({ objects, matcher }: ImpactGround): Scope[] {
  const ofCampaign = new Map<number, number[]>();
  objects.adGroups.forEach(({ campaign }, place) =>
    ofCampaign.set(campaign, [...(ofCampaign.get(campaign) ?? []), place]),
  );
  return objects.negatives.map(({ adGroup, campaign }) => {
    const all = (adGroup === null ? (ofCampaign.get(campaign) ?? []) : [adGroup]).filter((one) =>
      matcher.runs(one),
    );
    return {
      skus: new Set(all.map((one) => objects.adGroups[one]!.sku)),
      adGroups: new Set(all),
      automatic:
        objects.campaigns[campaign]!.kind === 'automatic' && all.length > 0
          ? objects.campaigns[campaign]!.name
          : null,
    };
  });
}

/** Rows of each term that had a click in the window. */
function rowsByTerm({ pairs, window }: ImpactGround): Map<number, number[]> {
  const rows = new Map<number, number[]>();
  for (let row = 0; row < pairs.target.length; row++) {
    if (window.clicks[row] === 0) continue;
    const term = pairs.term[row]!;
    const known = rows.get(term);
    if (known) known.push(row);
    else rows.set(term, [row]);
  }
  return rows;
}

/** Calls back for every negative and every term of the window that it keeps away. */
function visitBlocked(
  ground: ImpactGround,
  wanted: (negative: number) => boolean,
  visit: (negative: number, term: number, rows: number[], by: string) => void,
): void {
  const { objects, pairs, matcher } = ground;
  const scopes = scopesOf(ground);
  for (const [term, rows] of rowsByTerm(ground)) {
    const text = pairs.texts[term]!;
    const blocks = matcher.blocking(text).filter(wanted);
    if (blocks.length === 0) continue;
    const catching = matcher.catching(text).filter((target) => matcher.isLive(target));
    for (const negative of blocks) {
      const { skus, adGroups, automatic } = scopes[negative]!;
      const here = rows.filter((row) =>
        skus.has(objects.adGroups[objects.targets[pairs.target[row]!]!.adGroup]!.sku),
      );
      if (here.length === 0) continue;
      const target = catching.find((place) => adGroups.has(objects.targets[place]!.adGroup));
      const by =
        target === undefined
          ? automatic
          : `${objects.targets[target]!.matchType ?? objects.targets[target]!.kind} “${objects.targets[target]!.expression}”`;
      if (by !== null) visit(negative, term, here, by);
    }
  }
}

/** The impact of every negative, in their order. */
export function negativeImpacts(ground: ImpactGround): Impact[] {
  const { objects, window } = ground;
  const impacts = objects.negatives.map((): Impact => ({
    terms: 0,
    clicks: 0,
    spend: 0,
    orders: 0,
    sales: 0,
  }));
  visitBlocked(
    ground,
    () => true,
    (negative, _, rows) => {
      const impact = impacts[negative]!;
      impact.terms++;
      for (const row of rows) {
        impact.clicks += window.clicks[row]!;
        impact.spend += window.spend[row]!;
        impact.orders += window.orders[row]!;
        impact.sales += window.sales[row]!;
      }
    },
  );
  return impacts;
}

/** The terms that would flow again without one negative, those that spent most first. */
export function wouldFlow(ground: ImpactGround, negative: number): ImpactTerm[] {
  const { objects, pairs, window } = ground;
  const found: ImpactTerm[] = [];
  visitBlocked(
    ground,
    (one) => one === negative,
    (_, term, rows, by) => {
      const line: ImpactTerm = {
        term: pairs.texts[term]!,
        clicks: 0,
        spend: 0,
        orders: 0,
        sales: 0,
        places: [],
        by,
      };
      for (const row of rows) {
        line.clicks += window.clicks[row]!;
        line.spend += window.spend[row]!;
        line.orders += window.orders[row]!;
        line.sales += window.sales[row]!;
        const { name } = objects.adGroups[objects.targets[pairs.target[row]!]!.adGroup]!;
        if (!line.places.includes(name)) line.places.push(name);
      }
      found.push(line);
    },
  );
  return found.sort((a, b) => b.spend - a.spend);
}
