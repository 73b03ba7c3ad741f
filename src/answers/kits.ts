import type { KitBody, ProductGrounds, Suggestions } from '../core/kits/kit.ts';
import type { CataloguePage } from '../core/kits/pages.ts';
import type { NegativeList } from '../core/kits/types.ts';
import type { Recipe } from '../core/kits/recipe.ts';
import type { Day } from '../core/metrics/days.ts';
import type { KitLimits } from '../core/kits/kit.ts';

/** What endpoints of kits answer. */

export interface DeskProduct {
  sku: string;
  itemCode: string;
  title: string;
  price: number;
  stock: number | null;
  /** How the account calls it in names; its SKU where it has no habit. */
  code: string;
  /** Profit per order before advertising, micros; null while its costs are unknown. */
  profit: number | null;
}

/** Pages of the catalogue, and why there are none. */
export interface PagesAnswer {
  pages: CataloguePage[];
  problem: string | null;
}

export interface CategoriesAnswer {
  categories: { category: string; items: number }[];
  problem: string | null;
}

/** What every kit starts from. */
export interface DeskAnswer {
  today: Day | null;
  currency: string;
  products: DeskProduct[];
  /** Those that come with Mowing first. */
  recipes: { recipe: Recipe; own: boolean }[];
  limits: KitLimits;
  /** Names of campaigns that are taken, those on the open sheet too. */
  taken: string[];
  /** Lists of negatives. */
  lists: NegativeList[];
}

/** What the account and the marketplace say about a product. */
export interface GroundsAnswer {
  grounds: ProductGrounds;
  suggestions: Suggestions;
  /** Why the marketplace suggests nothing; null when it answered. */
  problem: string | null;
}

/** Kits out of a file, and rows that cannot be one. */
export interface ReadKits {
  kits: KitBody[];
  problems: { row: number; column: string; message: string }[];
}

/** An ad group whose rule chooses its products, and who joined and left it, the last first. */
export interface CollectionRow {
  adGroupId: string;
  adGroup: string;
  campaign: string;
  rule: Record<string, unknown>;
  members: { sku: string; title: string }[];
  changes: { day: Day; sku: string; joined: boolean }[];
}

export interface KitRow {
  kitId: string;
  name: string;
  products: number;
  /** On a sheet since it was put there. */
  onSheet: boolean;
  changedAt: string;
}

export interface KitAnswer {
  kitId: string;
  version: number;
  onSheet: boolean;
  body: KitBody;
}
