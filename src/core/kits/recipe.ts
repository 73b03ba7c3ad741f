import type { Micros } from '../metrics/money.ts';

/** What one part of a kit aims with: each is a campaign with one ad group (domain, section 15). */
export type PartKind = 'automatic' | 'category' | 'broad' | 'phrase' | 'exact' | 'items';

export const partKinds = [
  'automatic',
  'category',
  'broad',
  'phrase',
  'exact',
  'items',
] as const satisfies PartKind[];

/** Automatic modes, in the marketplace's words. */
export const automaticModes = ['close terms', 'wide terms', 'similar items', 'companion items'] as const;
export type AutomaticMode = (typeof automaticModes)[number];

/** Made and filled; made and left empty, to be filled by harvests; left out. */
export const partStates = ['fill', 'empty', 'out'] as const;
export type PartState = (typeof partStates)[number];

export const strategies = ['fixed', 'down_only', 'up_and_down'] as const;
export type Strategy = (typeof strategies)[number];

/** Where the first bid of a part's targets comes from. */
export type FirstBidWay =
  | { way: 'evidence' }
  /** A place in the suggested range, 0 its low and 1 its high end. */
  | { way: 'range'; at: number }
  | { way: 'fixed'; bid: Micros };

/** Where the keywords or items of a part come from. */
export const sources = ['kit', 'best', 'own_pages', 'modes', 'own_category'] as const;
/** `best`: the one keyword that has sold most; `own_pages`: pages of the account's other products; `own_category`: its category, from its price upward and up to its rating. */
export type Source = (typeof sources)[number];

export interface Part {
  /** Its word in names and on screen; one of a kind in its recipe. */
  name: string;
  kind: PartKind;
  /** Of an automatic part. */
  modes: readonly AutomaticMode[];
  purpose: string;
  /** Of the kit's budget; shares of a recipe need not add up, they are weighed against each other. */
  share: number;
  strategy: Strategy;
  /** Per cent by placement. */
  modifiers: Readonly<Record<string, number>>;
  firstBid: FirstBidWay;
  source: Source;
  state: PartState;
}

export interface Recipe {
  name: string;
  /** Of tokens in braces: {code}, {part}, {purpose}, {sku}, {number}. */
  pattern: string;
  parts: readonly Part[];
}

/** A part as it is while nothing else is said of it. */
export const usualPart = (
  name: string,
  kind: PartKind,
  share: number,
  more: Partial<Omit<Part, 'name' | 'kind' | 'share'>> = {},
): Part => ({
  name,
  kind,
  share,
  modes: kind === 'automatic' ? automaticModes : [],
  purpose: kind === 'exact' || kind === 'items' ? 'performance' : 'research',
  strategy: 'fixed',
  modifiers: {},
  firstBid: { way: 'evidence' },
  source: kind === 'automatic' ? 'modes' : kind === 'category' ? 'own_category' : 'kit',
  state: 'fill',
  ...more,
});

const pattern = '{code} {part}';

/** The recipes that come with Mowing. */
export const shippedRecipes: readonly Recipe[] = [
  {
    name: 'Full set',
    pattern,
    parts: [
      usualPart('automatic', 'automatic', 0.2),
      usualPart('broad', 'broad', 0.15),
      usualPart('phrase', 'phrase', 0.15),
      usualPart('exact', 'exact', 0.3),
      usualPart('items', 'items', 0.1),
      usualPart('category', 'category', 0.1),
    ],
  },
  {
    name: 'Modes apart',
    pattern,
    parts: automaticModes.map((mode) => usualPart(mode, 'automatic', 0.25, { modes: [mode] })),
  },
  { name: 'Exact only', pattern, parts: [usualPart('exact', 'exact', 1)] },
  {
    name: 'Defence',
    pattern,
    parts: [usualPart('own pages', 'items', 1, { purpose: 'defence', source: 'own_pages' })],
  },
  {
    name: 'One best keyword alone',
    pattern,
    parts: [usualPart('best keyword', 'exact', 1, { source: 'best' })],
  },
];

/** What keeps a recipe from being used, as sentences that name the part. */
export function recipeProblems({ name, pattern: text, parts }: Recipe): string[] {
  const said: string[] = [];
  if (name.trim() === '') said.push('A recipe needs a name.');
  if (parts.length === 0) said.push('A recipe needs a part.');
  if (parts.length > 1 && !text.includes('{part}'))
    said.push('The name pattern needs {part}: without it all parts would be called the same.');
  const seen = new Set<string>();
  for (const one of parts) {
    const key = one.name.trim().toLowerCase();
    if (key === '') said.push('Every part needs a name.');
    else if (seen.has(key)) said.push(`Two parts are called “${one.name}”.`);
    seen.add(key);
    if (!(one.share > 0)) said.push(`“${one.name}” needs a share of the budget above 0.`);
    if (one.kind === 'automatic' && one.modes.length === 0) said.push(`“${one.name}” has no automatic mode.`);
  }
  return said;
}
