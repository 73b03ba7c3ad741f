import { defaultGuards, type Guards } from '../bids/guards.ts';
import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import { normalise } from '../text/normalise.ts';
import type { KindEvidence, SuggestedRange } from './bids.ts';
import { KeywordChecker, type KeywordCheck } from './keywords.ts';
import type { CataloguePage } from './pages.ts';
import { planKit } from './plan.ts';
import { sharing, type Together } from './profit.ts';
import type { PartKind, Recipe } from './recipe.ts';
import type { RunningAdGroup } from './running.ts';
import type { Season } from '../metrics/season.ts';
import type {
  BudgetKind,
  CreativeLimits,
  KitPage,
  KitProduct,
  KitSettings,
  NegativeList,
  PartEdit,
  Plan,
  ShownCreative,
} from './types.ts';

/** A kit as it is kept: a recipe for one product or several, with what goes into it. */
export interface KitBody extends Omit<KitSettings, 'edits'> {
  name: string;
  skus: readonly string[];
  together: Together;
  recipe: Recipe;
  /** How products are called in names, where that is not their habit. */
  codes: Readonly<Record<string, string>>;
  /** By SKU, of products that share campaigns the first, and part. */
  edits: Readonly<Record<string, Readonly<Record<string, PartEdit>>>>;
}

/** What a kit is while nothing is said of it. */
export const usualKit: Omit<KitBody, 'name' | 'recipe'> = {
  skus: [],
  together: 'apart',
  budget: 50_000_000,
  budgetKind: 'daily',
  pacing: 'as_it_comes',
  startDate: null,
  endDate: null,
  startPaused: false,
  keywords: [],
  items: [],
  categories: [],
  completes: true,
  lists: [],
  excluded: [],
  pictures: [],
  titles: [],
  leftOut: [],
  codes: {},
  edits: {},
};

/** What the marketplace allows; money in micros. */
export interface KitLimits {
  characters: number;
  words: number;
  pattern: string;
  itemCode: string;
  minimumBudget: Record<BudgetKind, Micros>;
  minimumBid: Micros;
  maximumBid: Micros;
  bidStep: Micros;
  /** Below it nothing is shown, by kind of part. */
  leastCpc: Record<PartKind, Micros>;
  targetsPerAdGroup: number;
  negativesPerAdGroup: number;
  nameCharacters: number;
  creatives: CreativeLimits;
}

/** A term that sold. */
export interface ProvenTerm {
  text: string;
  orders: number;
  clicks: number;
  spend: Micros;
  sales: Micros;
}

/** What the account says about one product. */
export interface ProductGrounds {
  sku: string;
  itemCode: string;
  title: string;
  page: KitPage;
  code: string;
  stock: number | null;
  /** Profit per order before advertising, micros: what an order may cost at most; null while its costs are unknown. */
  profit: Micros | null;
  theta: number;
  evidence: Record<PartKind, KindEvidence>;
  floor: Micros | null;
  ceiling: Micros | null;
  /** Keywords it runs already. */
  served: { text: string; matchType: string; adGroup: string }[];
  /** Its ad groups that are not archived. */
  running: RunningAdGroup[];
  /** What they show, by ad group id. */
  shows: Record<string, ShownCreative[]>;
  season: Season | null;
  /** Terms that sold, most orders first. */
  proven: ProvenTerm[];
  /** Terms that sold for products with a like title, and not for it; most orders first. */
  alike: (ProvenTerm & { sku: string })[];
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
  /** Pages of items that it aims at already, as they stand. */
  pages: CataloguePage[];
}

export const noSuggestions: Suggestions = { keywords: [], items: [], pages: [] };

/** What a plan of several products rests on. */
export interface KitGround {
  today: Day | null;
  limits: KitLimits;
  /** In lower case. */
  taken: readonly string[];
  /** Lists of negatives of the account. */
  lists: readonly NegativeList[];
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
  new KeywordChecker({
    limits,
    title: grounds.title,
    proven: grounds.proven,
    served: grounds.served,
    blocking: grounds.running
      .filter(({ targets }) => targets.some(({ kind }) => kind === 'keyword'))
      .map(({ name, negatives }) => ({ adGroup: name, negatives })),
  });

/** Plans the kit of every product that is known, or of products that share one; names stay apart among all of them. */
export function planKits(
  body: KitBody,
  ground: KitGround,
  checks: (sku: string) => readonly KeywordCheck[],
): Plan[] {
  const taken = new Set(ground.taken);
  const known = body.skus.filter((sku) => ground.products.has(sku));
  const profits = known.map((sku) => ({ sku, profit: ground.products.get(sku)!.grounds.profit }));
  return sharing(profits, body.together).map(({ skus, warning }) => {
    const [sku, ...also] = skus;
    const { grounds, suggestions } = ground.products.get(sku)!;
    const productOf = (one: string): KitProduct => {
      const { itemCode, title, code, stock } = ground.products.get(one)!.grounds;
      return { sku: one, itemCode, title, code: body.codes[one] ?? code, stock };
    };
    const { limits } = ground;
    const plan = planKit(
      body.recipe,
      [productOf(sku), ...also.map(productOf)],
      { ...body, edits: body.edits[sku] ?? {} },
      checks(sku),
      {
        theta: grounds.theta,
        evidence: grounds.evidence,
        guards: guardsOf(limits, grounds),
        leastCpc: limits.leastCpc,
        minimumBudget: limits.minimumBudget,
        itemCode: limits.itemCode,
        targetsPerAdGroup: limits.targetsPerAdGroup,
        negativesPerAdGroup: limits.negativesPerAdGroup,
        nameCharacters: limits.nameCharacters,
        creatives: limits.creatives,
        lists: ground.lists.filter(({ listId }) => body.lists.includes(listId)),
        taken,
        ranges: rangesOf(suggestions),
        ownPages: ground.ownPages,
        page: grounds.page,
        best: grounds.proven[0]?.text ?? null,
        today: ground.today,
        running: grounds.running,
        shows: grounds.shows,
        pages: new Map(suggestions.pages.map((page) => [page.itemCode, page])),
        season: grounds.season,
        suggested: suggestions.items,
      },
    );
    for (const { name } of plan.parts) taken.add(name.toLowerCase());
    if (warning === null) return plan;
    const problem = { part: null, at: 'product', text: warning, stops: false } as const;
    return { ...plan, problems: [problem, ...plan.problems] };
  });
}
