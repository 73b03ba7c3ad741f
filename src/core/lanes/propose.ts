import { catchesPages, catchesSearches, isResearch, newLane, type Lane, type LaneAdGroup } from './lanes.ts';
import { wordsOf } from '../text/normalise.ts';

/** Words by which people say in a name what an ad group is for, not what it sells. */
const exactWords = new Set(['exact', 'ex', 'exa', 'ext', 'exakt', 'exacta', 'exacte', 'proven', 'winners']);
const itemWords = new Set('item items page pages pt itemcodes'.split(' '));
const roleWords = new Set([
  ...exactWords,
  ...itemWords,
  ...'auto automatic manual broad brd phrase phr research discovery keyword keywords kw targets targeting'.split(
    ' ',
  ),
  ...'campaign group ad close wide similar companion category categories cat brand products'.split(' '),
]);

/** The words of a name, whatever joins them: spaces, underscores, bars, capitals in the middle. */
export const nameWords = (name: string): string[] =>
  wordsOf(name.replace(/([a-z0-9])([A-Z])/g, '$1 $2').replaceAll('_', ' '));

const allWords = ({ campaign, name }: LaneAdGroup): string[] => [...nameWords(campaign), ...nameWords(name)];

/** What its targets are tells what it is for; while it has none its name does. */
const isExact = (adGroup: LaneAdGroup): boolean => {
  const { matchTypes, targetKinds } = adGroup;
  if (matchTypes.size > 0) return matchTypes.size === 1 && matchTypes.has('exact');
  return targetKinds.size === 0 && allWords(adGroup).some((word) => exactWords.has(word));
};

const isItems = (adGroup: LaneAdGroup): boolean => {
  const { targetKinds } = adGroup;
  if (targetKinds.size > 0) return targetKinds.has('item') && !targetKinds.has('keyword');
  return allWords(adGroup).some((word) => itemWords.has(word));
};

/** What an ad group sells: its product; where none is known, what its names say besides their role. */
const familyOf = (adGroup: LaneAdGroup): string =>
  adGroup.sku ??
  `name ${[...new Set(allWords(adGroup))]
    .filter((word) => !roleWords.has(word))
    .sort()
    .join(' ')}`;

/** Lanes for every research ad group that can run, read from products, names and what the ad groups hold. */
export function proposeLanes(adGroups: Iterable<LaneAdGroup>): Lane[] {
  const families = new Map<string, LaneAdGroup[]>();
  for (const adGroup of adGroups) {
    if (!adGroup.enabled) continue;
    const family = familyOf(adGroup);
    const known = families.get(family);
    if (known) known.push(adGroup);
    else families.set(family, [adGroup]);
  }
  return [...families.values()].flatMap(lanesOfFamily);
}

function lanesOfFamily(adGroups: LaneAdGroup[]): Lane[] {
  const words = new Map(adGroups.map((adGroup) => [adGroup, new Set(allWords(adGroup))]));
  const uses = new Map<string, number>();
  for (const set of words.values()) for (const word of set) uses.set(word, (uses.get(word) ?? 0) + 1);
  /** A word that few of them share says more than one they all have. */
  const likeness = (a: LaneAdGroup, b: LaneAdGroup): number => {
    const named = words.get(a)!;
    let sum = 0;
    for (const word of words.get(b)!) if (named.has(word)) sum += 1 / uses.get(word)!;
    return sum;
  };
  /** Of several possible destinations the one named most alike wins; then the oldest. */
  const best = (source: LaneAdGroup, options: LaneAdGroup[]): LaneAdGroup | null => {
    const possible = options
      .filter((adGroup) => adGroup !== source && !adGroup.automatic)
      .map((adGroup) => ({ adGroup, score: likeness(source, adGroup) }));
    possible.sort((a, b) => b.score - a.score || Number(a.adGroup.adGroupId) - Number(b.adGroup.adGroupId));
    return possible[0]?.adGroup ?? null;
  };
  const exact = adGroups.filter(isExact);
  const items = adGroups.filter(isItems);
  return adGroups.filter(isResearch).flatMap((source) => {
    const keyword = catchesSearches(source) ? best(source, exact) : null;
    const item = catchesPages(source) ? best(source, items) : null;
    return [
      ...(keyword ? [newLane(source, keyword.adGroupId, 'keyword')] : []),
      ...(item ? [newLane(source, item.adGroupId, 'item')] : []),
    ];
  });
}
