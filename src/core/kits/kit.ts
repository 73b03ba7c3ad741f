import { defaultGuards, type Guards } from '../bids/guards.ts';
import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import { normalise } from '../text/normalise.ts';
import type { KindEvidence, SuggestedRange } from './bids.ts';
import { KeywordChecker, type KeywordCheck } from './keywords.ts';
import { planKit, type KitPage, type KitSettings, type PartEdit, type Plan } from './plan.ts';
import type { PartKind, Recipe } from './recipe.ts';

/** A kit as it is kept: a recipe for one product or several, with what goes into it. */
export interface KitBody extends Omit<KitSettings, 'edits'> {
  name: string;
  skus: readonly string[];
  recipe: Recipe;
  /** How products are called in names, where that is not their habit. */
  codes: Readonly<Record<string, string>>;
  /** By SKU and part. */
  edits: Readonly<Record<string, Readonly<Record<string, PartEdit>>>>;
}

/** What the marketplace allows; money in micros. */
export interface KitLimits {
  characters: number;
  words: number;
  pattern: string;
  itemCode: string;
  minimumBudget: Micros;
  minimumBid: Micros;
  maximumBid: Micros;
  bidStep: Micros;
  /** Below it nothing is shown, by kind of part. */
  leastCpc: Record<PartKind, Micros>;
  targetsPerAdGroup: number;
  negativesPerAdGroup: number;
  nameCharacters: number;
}

/** What the account says about one product. */
export interface ProductGrounds {
  sku: string;
  itemCode: string;
  title: string;
  page: KitPage;
  code: string;
  stock: number | null;
  theta: number;
  evidence: Record<PartKind, KindEvidence>;
  floor: Micros | null;
  ceiling: Micros | null;
  /** Keywords it runs already. */
  served: { text: string; matchType: string; adGroup: string }[];
  /** Terms that sold, most orders first. */
  proven: { text: string; orders: number; clicks: number; spend: Micros; sales: Micros }[];
}

/** What the marketplace suggests for one product. */
export interface Suggestions {
  keywords: { text: string; monthlySearches: number; range: SuggestedRange }[];
  items: {
    itemCode: string;
    title: string;
    brand: string;
    price: Micros;
    rating: number;
    monthlyVisits: number;
    range: SuggestedRange;
  }[];
}

export const noSuggestions: Suggestions = { keywords: [], items: [] };

/** What a plan of several products rests on. */
export interface KitGround {
  today: Day | null;
  limits: KitLimits;
  /** In lower case. */
  taken: readonly string[];
  /** Codes of the account's own products. */
  ownPages: readonly string[];
  products: ReadonlyMap<string, { grounds: ProductGrounds; suggestions: Suggestions }>;
}

const rangesOf = ({ keywords, items }: Suggestions): Map<string, SuggestedRange> =>
  new Map([
    ...keywords.map(({ text, range }) => [normalise(text), range] as const),
    ...items.map(({ itemCode, range }) => [normalise(itemCode), range] as const),
  ]);

const guardsOf = (
  { minimumBid, maximumBid, bidStep }: KitLimits,
  { floor, ceiling }: ProductGrounds,
): Guards => ({
  ...defaultGuards,
  minimumBid,
  maximumBid,
  step: bidStep,
  floor: floor ?? defaultGuards.floor,
  ceiling: ceiling ?? defaultGuards.ceiling,
});

export const checkerOf = (grounds: ProductGrounds, limits: KitLimits): KeywordChecker =>
  new KeywordChecker({ limits, title: grounds.title, proven: grounds.proven, served: grounds.served });

/** Plans the kit of every product that is known; names stay apart among all of them. */
export function planKits(
  body: KitBody,
  ground: KitGround,
  checks: (sku: string) => readonly KeywordCheck[],
): Plan[] {
  const taken = new Set(ground.taken);
  return body.skus.flatMap((sku) => {
    const known = ground.products.get(sku);
    if (!known) return [];
    const { grounds, suggestions } = known;
    const { itemCode, title, code, stock, theta, evidence, proven } = grounds;
    const plan = planKit(
      body.recipe,
      { sku, itemCode, title, code: body.codes[sku] ?? code, stock },
      { ...body, edits: body.edits[sku] ?? {} },
      checks(sku),
      {
        theta,
        evidence,
        guards: guardsOf(ground.limits, grounds),
        leastCpc: ground.limits.leastCpc,
        minimumBudget: ground.limits.minimumBudget,
        itemCode: ground.limits.itemCode,
        targetsPerAdGroup: ground.limits.targetsPerAdGroup,
        negativesPerAdGroup: ground.limits.negativesPerAdGroup,
        nameCharacters: ground.limits.nameCharacters,
        taken,
        ranges: rangesOf(suggestions),
        ownPages: ground.ownPages,
        page: grounds.page,
        best: proven[0]?.text ?? null,
        today: ground.today,
      },
    );
    for (const { name } of plan.parts) taken.add(name.toLowerCase());
    return [plan];
  });
}
