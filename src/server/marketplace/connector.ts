import type { FieldEntity } from '../../core/changes/fields.ts';

/** What Mowing asks of any marketplace. One adapter per marketplace implements it. */

export type ReportKind =
  | 'targets-daily'
  | 'terms-daily'
  | 'placements-daily'
  | 'products-daily'
  | 'campaign-hours'
  | 'sold-daily'
  | 'ranks-daily';

export interface MarketplaceAccount {
  name: string;
  currency: string;
  timeZone: string;
  firstDay: string;
  today: string;
}

/** Limits are data of the connection (domain, section 14). Money in currency units, as the marketplace states it. */
export interface MarketplaceLimits {
  minimum_bid: number;
  maximum_bid: number;
  bid_step: number;
  minimum_budget: number;
  keyword_characters: number;
  keyword_words: number;
  keyword_pattern: string;
  item_code_pattern: string;
  batch_lines: number;
  [other: string]: unknown;
}

export type Row = Record<string, string | number | null>;

/** A change line in the marketplace's terms: its ids, money in currency units as text. */
export interface OutgoingLine {
  line_id: string;
  action: 'create' | 'update' | 'archive';
  entity: string;
  id: string | null;
  /** What other lines call the object that this one makes, with `new:` before it. */
  temp_id?: string;
  /** What is told of a campaign or ad group that is made. */
  values?: Record<string, unknown>;
  campaign_id: string | null;
  ad_group_id: string | null;
  field: string;
  old_value: string | null;
  new_value: string | null;
  target_kind: string | null;
  match_type: string | null;
  expression: string | null;
}

/** What clicks took lately, in currency units: to be seen at all, in the middle, at the top. */
export interface MarketplaceRange {
  low: number;
  middle: number;
  high: number;
}

/** Money in currency units. */
export interface MarketplaceSuggestions {
  keywords: { keyword: string; monthly_searches: number; bid: MarketplaceRange }[];
  items: {
    item_code: string;
    title: string;
    brand: string;
    price: number;
    rating: number;
    monthly_visits: number;
    bid: MarketplaceRange;
  }[];
}

/** An item of the catalogue as it stands; money in currency units. */
export interface MarketplaceItem {
  item_code: string;
  title: string;
  brand: string;
  category: string;
  price: number;
  rating: number | null;
  stock: number | null;
}

/** What is asked of the catalogue; what is left out is not asked. */
export interface CatalogueAsked {
  search?: string;
  item_codes?: readonly string[];
  category?: string;
  brand?: string;
}

export interface MarketplaceCategory {
  category: string;
  items: number;
  related: string[];
}

export interface LineAnswer {
  line_id: string;
  state: 'applied' | 'refused';
  id?: string;
  code?: string;
  message?: string;
  live_value?: string;
}

export interface Marketplace {
  name: string;
  /** Resolves when it answers at all; within seconds, without signing in. */
  reachable: () => Promise<void>;
  account: () => Promise<MarketplaceAccount>;
  limits: () => Promise<MarketplaceLimits>;
  /** Prepaid money that is left, in currency units; null where it is paid afterwards. Left out where there is none. */
  wallet?: () => Promise<number | null>;
  products: () => Promise<Row[]>;
  structure: () => Promise<{ version: number; rows: Row[] }>;
  /** What it suggests for a product, most searched first; left out by a marketplace that suggests nothing. */
  suggestions?: (sku: string, most: { keywords: number; items: number }) => Promise<MarketplaceSuggestions>;
  /** Items of all sellers, at most so many; left out by a marketplace that shows none. */
  catalogue?: (asked: CatalogueAsked, most: number) => Promise<MarketplaceItem[]>;
  categories?: () => Promise<MarketplaceCategory[]>;
  /** Takes a picture's file and tells what it is called there; the same file is the same picture. */
  picture?: (bytes: Uint8Array, type: string) => Promise<string>;
  /** Makes a report, waits for it and writes its CSV to `path`. */
  report: (kind: ReportKind, from: string, to: string, path: string) => Promise<void>;
  /** How the marketplace calls a field of `core/changes/fields.ts`; null for one that it cannot be told to change. */
  fieldName: (entity: FieldEntity, field: string) => string | null;
  /** The same key again must give the same answer and apply nothing. */
  send: (idempotencyKey: string, lines: OutgoingLine[]) => Promise<LineAnswer[]>;
  /** Demo only. */
  advance: (days: number) => Promise<void>;
}
