import type { Page, Query } from './shoppers.ts';
import { core, singular, words } from './matching.ts';
import { isAsked, readCategory, type CategoryRule } from './category.ts';
import type { Catalogue } from './catalogue.ts';
import type { CollectionRule } from './collection.ts';
import { readSchedule } from './schedule.ts';

export const placements = ['top_of_search', 'rest_of_search', 'product_pages', 'category_browse'] as const;
export const [topOfSearch, restOfSearch, productPages, categoryBrowse] = [0, 1, 2, 3];

export const limits = {
  minimum_bid: 0.03,
  maximum_bid: 60,
  bid_step: 0.01,
  minimum_budget: 2,
  maximum_modifier: 600,
  keyword_characters: 90,
  keyword_words: 10,
  item_code_pattern: '^QY[0-9A-Z]{6}$',
  keyword_pattern: "^[\\p{L}\\p{N} '\\-&.+]+$",
  targets_per_ad_group: 1000,
  negatives_per_ad_group: 1000,
  batch_lines: 500,
  name_characters: 120,
  title_characters: 60,
  titles_per_ad_group: 2,
  pictures_per_ad_group: 3,
  picture_pixels: 800,
  picture_bytes: 2_000_000,
  minimum_lifetime_budget: 20,
  minimum_cpc: { top_of_search: 0.12, rest_of_search: 0.05, product_pages: 0.04, category_browse: 0.04 },
} as const;

export type Status = 'enabled' | 'paused' | 'archived';

export interface Campaign {
  id: string;
  name: string;
  kind: string;
  budgetGroup: string | null;
  dailyBudget: number;
  strategy: string;
  startDate: string;
  endDate: string | null;
  status: Status;
  modifiers: number[];
  /** As `readSchedule` takes it; empty: the same at all hours. */
  schedule?: string;
  /** A lifetime budget is for all days together; without a kind it is a daily one. */
  budgetKind?: 'daily' | 'lifetime';
  lifetimeBudget?: number;
  /** Even: parted over the hours, and a lifetime budget over the days that are left. */
  pacing?: 'even' | 'as_it_comes';
}

export interface AdGroup {
  id: string;
  campaignId: string;
  name: string;
  defaultBid: number;
  status: Status;
  /** What it advertises; of one with a rule, what the rule matched on the day that was lived last. */
  skus: string[];
  startDate?: string | null;
  endDate?: string | null;
  /** Products are those that a rule matches, day by day. */
  rule?: CollectionRule | null;
  /** Shows on searches and visits of neighbouring categories too. */
  relatedCategories?: boolean;
}

/** A picture (its id) or a title of an ad group, or a pair of both that is left out ("picture title"). */
export interface Creative {
  id: string;
  adGroupId: string;
  kind: 'picture' | 'title' | 'left_out';
  value: string;
  status: Status;
}

export interface Target {
  id: string;
  adGroupId: string;
  kind: string;
  matchType: string | null;
  expression: string;
  bid: number;
  status: Status;
}

export interface Negative {
  id: string;
  campaignId: string;
  adGroupId: string | null;
  matchType: string;
  expression: string;
  status: Status;
}

export interface Structure {
  version: number;
  budgetGroups: { id: string; name: string; dailyBudget: number }[];
  campaigns: Map<string, Campaign>;
  adGroups: Map<string, AdGroup>;
  targets: Map<string, Target>;
  negatives: Map<string, Negative>;
  creatives: Map<string, Creative>;
}

const none: ReadonlySet<string> = new Set();

/** A target that may answer a query for one product. */
export interface Candidate {
  target: Target;
  campaign: Campaign;
  adGroup: AdGroup;
  product: number;
  /** What the campaign's schedule makes of the bid in each hour of the week; null: nothing. */
  schedule: Float64Array | null;
}

/**
 * Which targets may answer a query, a page or a category visit. Built anew whenever the structure changes;
 * remembers its answers, since most searches have been made before.
 */
export class Matcher {
  private readonly exact = new Map<string, Candidate[]>();
  private readonly phrase = new Map<string, Candidate[]>();
  private readonly broad = new Map<string, { needs: string[]; candidate: Candidate }[]>();
  private readonly items = new Map<string, Candidate[]>();
  private readonly automatic: Candidate[] = [];
  private readonly categories: { rule: CategoryRule; near: ReadonlySet<string>; candidate: Candidate }[] = [];
  private readonly blocked = new Map<string, Set<string>>();
  private readonly blockedPhrases = new Map<string, string[]>();
  private readonly queries = new Map<string, Candidate[]>();
  private readonly pages = new Map<string, Candidate[]>();
  private visits = new Map<string, Candidate[]>();

  constructor(
    structure: Structure,
    productIndex: ReadonlyMap<string, number>,
    private readonly catalogue: Catalogue,
  ) {
    const schedules = new Map(
      [...structure.campaigns.values()].map(({ id, schedule }) => [id, readSchedule(schedule ?? '')]),
    );
    for (const target of structure.targets.values()) {
      const adGroup = structure.adGroups.get(target.adGroupId)!;
      const campaign = structure.campaigns.get(adGroup.campaignId)!;
      if ([target, adGroup, campaign].some((object) => object.status !== 'enabled')) continue;
      for (const sku of adGroup.skus) {
        const schedule = schedules.get(campaign.id)!;
        this.index({ target, campaign, adGroup, product: productIndex.get(sku)!, schedule });
      }
    }
    for (const negative of structure.negatives.values()) {
      if (negative.status !== 'enabled') continue;
      const place = negative.adGroupId ?? negative.campaignId;
      const list = words(negative.expression);
      if (negative.matchType === 'negative_phrase') {
        this.blockedPhrases.set(place, [...(this.blockedPhrases.get(place) ?? []), ` ${list.join(' ')} `]);
      } else {
        const set = this.blocked.get(place) ?? new Set<string>();
        this.blocked.set(place, set.add(list.map(singular).join(' ')));
      }
    }
  }

  private index(candidate: Candidate): void {
    const { target } = candidate;
    const list = words(target.expression);
    const add = (map: Map<string, Candidate[]>, key: string) => {
      const known = map.get(key);
      if (known) known.push(candidate);
      else map.set(key, [candidate]);
    };
    if (target.kind === 'automatic') this.automatic.push(candidate);
    else if (target.kind === 'item') add(this.items, target.expression.toUpperCase());
    else if (target.kind === 'category') {
      const rule = readCategory(target.expression);
      const near = candidate.adGroup.relatedCategories ? this.catalogue.neighbours(rule.category) : none;
      this.categories.push({ rule, near, candidate });
    } else if (target.matchType === 'exact') add(this.exact, core(list).join(' '));
    else if (target.matchType === 'phrase') add(this.phrase, list.join(' '));
    else {
      const needs = core(list);
      const first = needs[0]!;
      this.broad.set(first, [...(this.broad.get(first) ?? []), { needs, candidate }]);
    }
  }

  private free(candidates: Candidate[], list: string[]): Candidate[] {
    if (candidates.length === 0) return candidates;
    const key = list.map(singular).join(' ');
    const hay = ` ${list.join(' ')} `;
    const isFree = (place: string): boolean =>
      !this.blocked.get(place)?.has(key) &&
      !this.blockedPhrases.get(place)?.some((phrase) => hay.includes(phrase));
    return candidates.filter(({ target, campaign }) => isFree(target.adGroupId) && isFree(campaign.id));
  }

  /** Targets for what a shopper typed. Close terms fit well, wide terms fit somewhat. */
  forQuery(query: Query): Candidate[] {
    const known = this.queries.get(query.text);
    if (known) return known;
    const list = words(query.text);
    const kernel = core(list);
    const have = new Set(kernel);
    const found = [...(this.exact.get(kernel.join(' ')) ?? [])];
    for (let from = 0; from < list.length; from++) {
      for (let to = from + 1; to <= list.length; to++) {
        const hit = this.phrase.get(list.slice(from, to).join(' '));
        if (hit) found.push(...hit);
      }
    }
    for (const word of have) {
      for (const { needs, candidate } of this.broad.get(word) ?? []) {
        if (needs.every((need) => have.has(need))) found.push(candidate);
      }
    }
    for (const candidate of this.automatic) {
      const click = query.click[candidate.product]!;
      const mode = candidate.target.expression;
      if (mode === 'close terms' && click > 0.012) found.push(candidate);
      const least = candidate.adGroup.relatedCategories ? 0.001 : 0.003;
      if (mode === 'wide terms' && click > least && click <= 0.018) found.push(candidate);
    }
    const free = this.free(found, list);
    this.queries.set(query.text, free);
    return free;
  }

  /** Targets for a visit to an item page. Similar items stand in for ours, companions go with them. */
  forPage(page: Page): Candidate[] {
    const known = this.pages.get(page.text);
    if (known) return known;
    const found = [...(this.items.get(page.text) ?? [])];
    for (const candidate of this.automatic) {
      const click = page.click[candidate.product]!;
      const mode = candidate.target.expression;
      if (mode === 'similar items' && click > 0.009) found.push(candidate);
      if (mode === 'companion items' && click > 0.002 && click <= 0.009) found.push(candidate);
    }
    const free = this.free(found, words(page.text)).filter((candidate) => candidate.product !== page.own);
    this.pages.set(page.text, free);
    return free;
  }

  /** Prices and ratings have moved: who asks for them is looked up anew. */
  newDay(): void {
    this.visits = new Map();
  }

  /** Targets for somebody who looks through a category. */
  forCategory(page: Page): Candidate[] {
    const known = this.visits.get(page.text);
    if (known) return known;
    const item = this.catalogue.item(page.text)!;
    const found = this.categories
      .filter(
        ({ rule, near }) =>
          (rule.category === page.category || near.has(page.category)) && isAsked(item, rule),
      )
      .map(({ candidate }) => candidate);
    const free = this.free(found, words(page.text));
    this.visits.set(page.text, free);
    return free;
  }
}
