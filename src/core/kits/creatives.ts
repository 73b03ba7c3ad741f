import { counted } from '../metrics/format.ts';
import type { Say } from './checks.ts';
import type { CreativeLimits, KitSettings, PlannedCreative } from './types.ts';

/** Pictures and titles of a kit: every picture is shown with every title, but for the pairs that are left out. */

/** A picture and a title that are shown together, by the picture's number. */
export const pairOf = (pictureId: string, title: string): string => `${pictureId} ${title}`;

/** What every ad group of the kit shows; what is wrong with it is said. */
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
