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

/** Words that two names share: of several possible destinations the one named most alike wins. */
function likeness(a: string, b: string): number {
  const have = new Set(wordsOf(a));
  return wordsOf(b).filter((word) => have.has(word)).length;
}

/** One lane per enabled research ad group, read from products, names and what the ad groups hold. */
export function readLanes(adGroups: readonly LaneAdGroup[]): Lane[] {
  const live = adGroups.filter((adGroup) => adGroup.enabled);
  const best = (source: LaneAdGroup, fits: (adGroup: LaneAdGroup) => boolean): string | null => {
    const options = live.filter(
      (adGroup) => adGroup.adGroupId !== source.adGroupId && adGroup.sku === source.sku && fits(adGroup),
    );
    const score = (adGroup: LaneAdGroup) =>
      likeness(`${source.campaign} ${source.name}`, `${adGroup.campaign} ${adGroup.name}`);
    options.sort((a, b) => score(b) - score(a) || (a.adGroupId < b.adGroupId ? -1 : 1));
    return options[0]?.adGroupId ?? null;
  };
  return live
    .filter((adGroup) => isResearch(adGroup) && adGroup.sku !== null)
    .map((source) => ({
      source: source.adGroupId,
      keywords: best(source, isExact),
      matchType: 'exact',
      items: best(source, isItems),
    }));
}
