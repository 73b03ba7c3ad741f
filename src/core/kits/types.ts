import type { NegativeType } from '../account/store.ts';
import type { Guards } from '../bids/guards.ts';
import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { FirstBid, KindEvidence, SuggestedRange } from './bids.ts';
import type { Bought } from './budget.ts';
import type { KitKeyword } from './keywords.ts';
import type { CataloguePage } from './pages.ts';
import type { Part, PartKind, PartState, Strategy } from './recipe.ts';
import type { RunningAdGroup, RunningTarget } from './running.ts';
import type { Season } from '../metrics/season.ts';

/** What goes into a plan of a kit, and what comes out. */

/** The product that a kit is for. */
export interface KitProduct {
  sku: string;
  itemCode: string;
  title: string;
  /** How the account calls it in names. */
  code: string;
  /** Pieces there are; null where that is not known. */
  stock: number | null;
}

/** What is changed of a part by hand. */
export interface PartEdit {
  state?: PartState;
  name?: string;
  /** A day, or of all days where the kit's budget is. */
  budget?: Micros;
  strategy?: Strategy;
  /** Of all its targets. */
  bid?: Micros;
  /** The ad group that is this part already, by id; null: none is, whatever looks like it. */
  stands?: string | null;
  /** What went stale is archived, and replaced. */
  refresh?: boolean;
}

/** A category whose pages the product is shown on, narrowed by the product's own page. */
export interface KitCategory {
  category: string;
  /** From the product's price upward. */
  fromOwnPrice: boolean;
  /** Rated up to the product's rating. */
  toOwnRating: boolean;
  brand: string | null;
}

/** An item of the kit: a page beside which the product shall be shown. */
export interface KitItem {
  itemCode: string;
  bid: Micros | null;
}

/** A picture by the number of its file. */
export interface KitPicture {
  id: string;
  name: string;
}

/** What goes into a kit. */
export interface KitSettings {
  /** For all parts that are made: a day, or of all days together. */
  budget: Micros;
  budgetKind: BudgetKind;
  pacing: Pacing;
  startDate: Day | null;
  endDate: Day | null;
  startPaused: boolean;
  keywords: readonly KitKeyword[];
  items: readonly KitItem[];
  /** None: the product's own. */
  categories: readonly KitCategory[];
  /** What runs already as a part of the recipe is completed, not made again. */
  completes: boolean;
  pictures: readonly KitPicture[];
  titles: readonly string[];
  /** Pairs of a picture and a title that are not shown (`pairOf`). */
  leftOut: readonly string[];
  /** Lists of negatives of the account that keep every part out of what they name, by number. */
  lists: readonly number[];
  /** Phrases that no part of the kit is shown for. */
  excluded: readonly string[];
  edits: Readonly<Record<string, PartEdit>>;
}

export const budgetKinds = ['daily', 'lifetime'] as const;
export type BudgetKind = (typeof budgetKinds)[number];
export const pacings = ['as_it_comes', 'even'] as const;
/** Even: parted over the hours, and a lifetime budget over its days. */
export type Pacing = (typeof pacings)[number];

/** The product's own page, as category targets are narrowed by it. */
export interface KitPage {
  category: string | null;
  price: Micros;
  rating: number | null;
}

/** A list of negatives of the account. */
export interface NegativeList {
  listId: number;
  name: string;
  entries: readonly { matchType: NegativeType; expression: string }[];
}

/** How many pictures and titles an ad group takes, and how they must be; none where the marketplace takes none. */
export interface CreativeLimits {
  pictures: number;
  /** Width and height. */
  pixels: number;
  bytes: number;
  titles: number;
  titleCharacters: number;
}

/** What the account and the marketplace say. Money in micros. */
export interface KitContext {
  theta: number;
  evidence: Readonly<Record<PartKind, KindEvidence>>;
  guards: Guards;
  /** Below it nothing is shown, by kind. */
  leastCpc: Readonly<Record<PartKind, Micros>>;
  minimumBudget: Record<BudgetKind, Micros>;
  itemCode: string;
  targetsPerAdGroup: number;
  negativesPerAdGroup: number;
  nameCharacters: number;
  creatives: CreativeLimits;
  /** Those that are chosen. */
  lists: readonly NegativeList[];
  /** Names of campaigns that are taken, in lower case. */
  taken: ReadonlySet<string>;
  /** What clicks took, by keyword or item code as they are normalised. */
  ranges: ReadonlyMap<string, SuggestedRange>;
  /** Codes of the account's own products. */
  ownPages: readonly string[];
  /** Where its page stands: prices in micros, ratings of 1 to 5 stars; null where that is not known. */
  page: KitPage;
  /** The product's term that has sold most; null without an order. */
  best: string | null;
  today: Day | null;
  /** Ad groups of the product that are not archived. */
  running: readonly RunningAdGroup[];
  /** What they show, by ad group id. */
  shows: Readonly<Record<string, readonly ShownCreative[]>>;
  /** Pages of items as they stand, by item code. */
  pages: ReadonlyMap<string, CataloguePage>;
  season: Season | null;
  /** Pages that the marketplace suggests. */
  suggested: readonly Pick<CataloguePage, 'itemCode' | 'title' | 'price' | 'rating'>[];
}

/** Something that is wrong with a plan, at its place. */
export interface PlanProblem {
  /** Null: of the whole kit. */
  part: string | null;
  at:
    | 'product'
    | 'recipe'
    | 'name'
    | 'budget'
    | 'dates'
    | 'keywords'
    | 'items'
    | 'targets'
    | 'negatives'
    | 'creatives';
  text: string;
  /** Nothing is made while it stands. */
  stops: boolean;
}

export interface PlannedTarget extends FirstBid {
  targetKind: 'automatic' | 'keyword' | 'item' | 'category';
  matchType: 'broad' | 'phrase' | 'exact' | null;
  expression: string;
}

export interface PlannedNegative {
  matchType: NegativeType;
  expression: string;
  /** The part that serves it; null: it is excluded from the whole kit. */
  servedBy: string | null;
  /** The account's list that it is of; it stands in the whole campaign then. */
  list?: string;
}

/** A target of a part that went stale. */
export interface StaleTarget {
  target: RunningTarget;
  /** What changed, as a sentence with its numbers. */
  why: string;
}

/** A part as it would be made, a campaign with one ad group of the same name; or what one that stands would get. */
export interface PlannedPart {
  part: Part;
  state: 'fill' | 'empty';
  /** What is this part already; null: it is made. */
  stands: RunningAdGroup | null;
  name: string;
  /** A day, or of all days. */
  budget: Micros;
  /** A day. */
  dailyBudget: Micros;
  strategy: Strategy;
  defaultBid: FirstBid;
  /** What is added. */
  targets: PlannedTarget[];
  negatives: PlannedNegative[];
  /** Pictures, titles and pairs left out that it does not show yet. */
  creatives: PlannedCreative[];
  /** Targets that no longer fit the product's page; archived where the part is refreshed. */
  stale: StaleTarget[];
  archives: StaleTarget[];
  /** Expected CPC, micros, and what the budget buys of it. */
  cpc: Micros;
  bought: Bought;
}

/** A picture by its number, a title, or a pair of both that is left out. */
export interface ShownCreative {
  kind: 'picture' | 'title' | 'left_out';
  value: string;
}

export interface PlannedCreative extends ShownCreative {
  /** As people call it. */
  name: string;
}

export interface Plan {
  product: KitProduct;
  /** Products that share its campaigns. */
  also: readonly KitProduct[];
  recipe: string;
  parts: PlannedPart[];
  problems: PlanProblem[];
}

/** A part that is not left out, and the ad group that is it already. */
export interface KeptPart {
  part: Part;
  edit: PartEdit;
  state: 'fill' | 'empty';
  stands: RunningAdGroup | null;
}
