import { counted } from '../metrics/format.ts';
import type { Say } from './checks.ts';
import type { CreativeLimits, KitSettings, PlannedCreative, ShownCreative } from './types.ts';

/** Pictures and titles of a kit: every picture is shown with every title, but for the pairs that are left out. */

/** A picture and a title that are shown together, by the picture's number. */
export const pairOf = (pictureId: string, title: string): string => `${pictureId} ${title}`;

/** What every ad group of the kit shall show; what is wrong with it is said. */
export function creativesOf(
  { pictures, titles: written, leftOut }: KitSettings,
  limits: CreativeLimits,
  say: Say,
): PlannedCreative[] {
  const titles = [...new Set(written.map((title) => title.trim()).filter((title) => title !== ''))];
  const wrong = (text: string) => say(null, 'creatives', text);
  if (pictures.length > limits.pictures)
    wrong(`${counted(pictures.length, 'picture')}: an ad group takes ${limits.pictures} at most.`);
  if (titles.length > limits.titles)
    wrong(`${counted(titles.length, 'title')}: an ad group takes ${limits.titles} at most.`);
  for (const title of titles)
    if (title.length > limits.titleCharacters)
      wrong(`“${title}” has ${title.length} characters, ${limits.titleCharacters} are the most.`);
  const pairs = pictures.flatMap(({ id, name }) =>
    titles.map((title) => ({ value: pairOf(id, title), name: `${name} with “${title}”` })),
  );
  const out = pairs.filter(({ value }) => leftOut.includes(value));
  if (pairs.length > 0 && out.length === pairs.length)
    wrong('Every picture is left out with every title: nothing could be shown.');
  return [
    ...pictures.map(({ id, name }) => ({ kind: 'picture' as const, value: id, name })),
    ...titles.map((title) => ({ kind: 'title' as const, value: title, name: title })),
    ...out.map((pair) => ({ kind: 'left_out' as const, ...pair })),
  ];
}

/** What an ad group that stands does not show yet; it is said where that would be more than it takes. */
export function missingCreatives(
  wanted: readonly PlannedCreative[],
  shown: readonly ShownCreative[],
  limits: CreativeLimits,
  say: (text: string) => void,
): PlannedCreative[] {
  const keyOf = ({ kind, value }: ShownCreative) => `${kind} ${value}`;
  const has = new Set(shown.map(keyOf));
  const missing = wanted.filter((one) => !has.has(keyOf(one)));
  for (const [kind, most, name] of [
    ['picture', limits.pictures, 'picture'],
    ['title', limits.titles, 'title'],
  ] as const) {
    const count = (list: readonly ShownCreative[]) => list.filter((one) => one.kind === kind).length;
    const added = count(missing);
    if (added > 0 && count(shown) + added > most)
      say(
        `It shows ${counted(count(shown), name)} already and would get ${added}; an ad group takes ${most} at most.`,
      );
  }
  return missing;
}
