import type { NegativeRow } from '../../answers/terms.ts';

/** What the negatives of the account are told as. */

/** A running ad group with its campaign and product: where negatives can stand. */
export interface Place {
  campaignId: string;
  campaign: string;
  adGroupId: string;
  adGroup: string;
  sku: string | null;
}

export interface ListRow {
  id: number;
  name: string;
  entries: number;
  campaigns: number;
}

export interface NegativesAnswer {
  negatives: NegativeRow[];
  places: Place[];
  lists: ListRow[];
}

export const typeNames: Record<string, string> = {
  negative_exact: 'negative exact',
  negative_phrase: 'negative phrase',
  negative_item: 'negative item',
};

/** Campaigns of the places, each once, by name. */
export const campaignsOf = (places: readonly Place[]): { id: string; name: string }[] =>
  [...new Map(places.map(({ campaignId, campaign }) => [campaignId, campaign]))]
    .map(([id, name]) => ({ id, name }))
    .sort((a, b) => a.name.localeCompare(b.name));
