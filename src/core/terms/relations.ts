import { NegativeIndex } from './match.ts';
import { normalise, variantForm } from '../text/normalise.ts';
import type { Running } from '../account/running.ts';
import type { Objects, Pairs } from '../account/store.ts';

/** What stands around a term: read row by row of the term level, indexed once. */

/**
 * The exact keyword or item target that serves a term for the same product: type and ad group; null for none. One of
 * these very words first, as Round skips it; else a close variant, which catches the term too and is told as that.
 */
export function servedReader(
  objects: Objects,
  runs: Running,
  pairs: Pairs,
  skuOf: (row: number) => string | null,
): (row: number) => string | null {
  const same = new Map<string, number>();
  const variants = new Map<string, number>();
  objects.targets.forEach((target, i) => {
    if (!runs.target(i) || !(target.matchType === 'exact' || target.kind === 'item')) return;
    const { sku } = objects.adGroups[target.adGroup]!;
    const note = (map: Map<string, number>, form: string) => {
      const key = `${sku}\t${form}`;
      if (!map.has(key)) map.set(key, i);
    };
    note(same, normalise(target.expression));
    note(variants, variantForm(target.expression));
  });
  const forms: { own: string; variant: string }[] = [];
  return (row) => {
    const term = pairs.term[row]!;
    const text = pairs.texts[term]!;
    const { own, variant } = (forms[term] ??= { own: normalise(text), variant: variantForm(text) });
    const exactly = same.get(`${skuOf(row)}\t${own}`);
    const at = exactly ?? variants.get(`${skuOf(row)}\t${variant}`);
    if (at === undefined) return null;
    const { matchType, adGroup } = objects.targets[at]!;
    const place = `${matchType ?? 'item'} in ${objects.adGroups[adGroup]!.name}`;
    return exactly === undefined ? `${place}, as a close variant` : place;
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
