import type { NegativePlaceRow } from '../../answers/terms.ts';

/** What the negatives of the account are told as. */

export const typeNames: Record<string, string> = {
  negative_exact: 'negative exact',
  negative_phrase: 'negative phrase',
  negative_item: 'negative item',
};

/** Campaigns of the places, each once, by name. */
export const campaignsOf = (places: readonly NegativePlaceRow[]): { id: string; name: string }[] =>
  [...new Map(places.map(({ campaignId, campaign }) => [campaignId, campaign]))]
    .map(([id, name]) => ({ id, name }))
    .sort((a, b) => a.name.localeCompare(b.name));
