import { NegativeIndex } from '../terms/match.ts';
import { variantForm } from '../terms/normalise.ts';
import type { Running } from '../account/running.ts';
import type { Objects, Pairs } from '../account/store.ts';

/** What stands around a term: read row by row of the term level, indexed once. */

/** Exact keywords and item targets that serve a term for the same product: type and ad group; null for none. */
export function servedReader(
  objects: Objects,
  runs: Running,
  pairs: Pairs,
  skuOf: (row: number) => string | null,
): (row: number) => string | null {
  const places = new Map<string, number>();
  objects.targets.forEach((target, i) => {
    const adGroup = objects.adGroups[target.adGroup]!;
    if (!runs.target(i) || !(target.matchType === 'exact' || target.kind === 'item')) return;
    const key = `${adGroup.sku}\t${variantForm(target.expression)}`;
    if (!places.has(key)) places.set(key, i);
  });
  const forms: (string | undefined)[] = [];
  return (row) => {
    const term = pairs.term[row]!;
    const form = (forms[term] ??= variantForm(pairs.texts[term]!));
    const at = places.get(`${skuOf(row)}\t${form}`);
    if (at === undefined) return null;
    const { matchType, adGroup } = objects.targets[at]!;
    return `${matchType ?? 'item'} in ${objects.adGroups[adGroup]!.name}`;
  };
}

/** The negative that keeps a term from its ad group, and where it stands; null for none. */
export function blockedReader(objects: Objects, pairs: Pairs): (row: number) => string | null {
  const ofAdGroup = new Map<number, NegativeIndex>();
  const ofCampaign = new Map<number, NegativeIndex>();
  for (const { id, campaign, adGroup, matchType, expression, status } of objects.negatives) {
    if (status !== 'enabled') continue;
    const [map, at] = adGroup === null ? [ofCampaign, campaign] : [ofAdGroup, adGroup];
    const index = map.get(at) ?? new NegativeIndex();
    index.add({ id, matchType, expression });
    map.set(at, index);
  }
  return (row) => {
    const text = pairs.texts[pairs.term[row]!]!;
    const { adGroup } = objects.targets[pairs.target[row]!]!;
    const { campaign, name } = objects.adGroups[adGroup]!;
    const here = ofAdGroup.get(adGroup)?.blocking(text);
    const hit = here ?? ofCampaign.get(campaign)?.blocking(text);
    if (!hit) return null;
    const place = here ? name : objects.campaigns[campaign]!.name;
    return `${hit.matchType.replace('_', ' ')} “${hit.expression}” in ${place}`;
  };
}
