import { trait } from './random.ts';
import type { Random } from './random.ts';
import type { Creative, Structure } from './account.ts';

/** A picture with a title, as shoppers see them together. */
export interface Combination {
  picture: string;
  title: string;
  /** Hidden: what the pair makes of the click-through. */
  appeal: number;
}

/** How gladly a picture with a title is clicked: a factor that never changes. */
export const appealOf = (picture: string, title: string): number =>
  Math.exp(
    0.22 * trait(`${picture} appeal`) +
      0.15 * trait(`${title} appeal`) +
      0.12 * trait(`${picture} ${title} pair`),
  );

/** Every pair of an ad group's pictures and titles that is not left out, by ad group; a missing side is ''. */
export function combinationsOf(structure: Structure): Map<string, Combination[]> {
  const groups = new Map<string, Creative[]>();
  for (const creative of structure.creatives.values())
    if (creative.status === 'enabled')
      groups.set(creative.adGroupId, [...(groups.get(creative.adGroupId) ?? []), creative]);
  const found = new Map<string, Combination[]>();
  for (const [adGroupId, list] of groups) {
    const of = (kind: Creative['kind']) => list.filter((one) => one.kind === kind).map(({ value }) => value);
    const leftOut = new Set(list.filter(({ kind }) => kind === 'left_out').map(({ value }) => value));
    const [pictures, titles] = [of('picture'), of('title')];
    const pairs = (pictures.length > 0 ? pictures : ['']).flatMap((picture) =>
      (titles.length > 0 ? titles : ['']).map((title) => ({
        picture,
        title,
        appeal: appealOf(picture, title),
      })),
    );
    const kept = pairs.filter(({ picture, title }) => !leftOut.has(`${picture} ${title}`));
    if (kept.length > 0) found.set(adGroupId, kept);
  }
  return found;
}

/** Pairs take turns by chance. */
export const drawn = (list: readonly Combination[], random: Random): Combination =>
  list[Math.floor(random() * list.length)]!;
