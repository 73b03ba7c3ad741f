import { wordsOf } from './normalise.ts';

/** An ad group as lanes see it. */
export interface LaneAdGroup {
  adGroupId: string;
  campaignId: string;
  name: string;
  campaign: string;
  automatic: boolean;
  /** The advertised product; null when it advertises none. */
  sku: string | null;
  enabled: boolean;
  /** What its targets are, when it has any. */
  targetKinds: ReadonlySet<string>;
  matchTypes: ReadonlySet<string>;
}

/** Where winners of one research ad group go. */
export interface Lane {
  source: string;
  /** Keyword ad group for terms, with the match type they get there; null when none was found. */
  keywords: string | null;
  matchType: 'exact';
  /** Product-target ad group for terms that are item codes. */
  items: string | null;
}

const isExact = (adGroup: LaneAdGroup) =>
  adGroup.matchTypes.size > 0
    ? adGroup.matchTypes.size === 1 && adGroup.matchTypes.has('exact')
    : wordsOf(adGroup.name).includes('exact');

const isItems = (adGroup: LaneAdGroup) =>
  adGroup.targetKinds.size > 0
    ? adGroup.targetKinds.has('item') && !adGroup.targetKinds.has('keyword')
    : wordsOf(adGroup.name).includes('items');

/** Automatic, broad, phrase and category targets are research (guide, section 2). */
export const isResearch = (adGroup: LaneAdGroup): boolean =>
  adGroup.automatic || adGroup.matchTypes.has('broad') || adGroup.matchTypes.has('phrase');

/** One lane per enabled research ad group, read from products, names and what the ad groups hold. */
export function readLanes(adGroups: readonly LaneAdGroup[]): Lane[] {
  const byProduct = new Map<string, LaneAdGroup[]>();
  for (const adGroup of adGroups) {
    if (!adGroup.enabled || adGroup.sku === null) continue;
    const known = byProduct.get(adGroup.sku);
    if (known) known.push(adGroup);
    else byProduct.set(adGroup.sku, [adGroup]);
  }
  return [...byProduct.values()].flatMap(lanesOfProduct);
}

function lanesOfProduct(adGroups: LaneAdGroup[]): Lane[] {
  const words = new Map(
    adGroups.map((adGroup) => [adGroup, new Set(wordsOf(`${adGroup.campaign} ${adGroup.name}`))]),
  );
  /** Of several possible destinations the one named most alike wins. */
  const best = (source: LaneAdGroup, options: LaneAdGroup[]): string | null => {
    const named = words.get(source)!;
    const likeness = (option: LaneAdGroup) =>
      [...words.get(option)!].filter((word) => named.has(word)).length;
    let winner: { adGroup: LaneAdGroup; score: number } | null = null;
    for (const adGroup of options) {
      if (adGroup === source) continue;
      const score = likeness(adGroup);
      const first = !winner || score > winner.score;
      if (first || (score === winner!.score && adGroup.adGroupId < winner!.adGroup.adGroupId)) {
        winner = { adGroup, score };
      }
    }
    return winner?.adGroup.adGroupId ?? null;
  };
  const exact = adGroups.filter(isExact);
  const items = adGroups.filter(isItems);
  return adGroups.filter(isResearch).map((source) => ({
    source: source.adGroupId,
    keywords: best(source, exact),
    matchType: 'exact',
    items: best(source, items),
  }));
}
