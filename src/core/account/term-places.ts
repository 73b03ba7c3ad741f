import { PairPlaces } from './places.ts';
import type { Objects, Pairs } from './store.ts';

/** Terms of ad groups: that is where a term is judged, whichever of its targets caught it. */
export interface TermPlaces {
  /** The term of each pair. Pairs of archived targets make terms of their own. */
  of: Int32Array;
  count: number;
  /** By term: its ad group, and 1 where it is one of archived targets. */
  adGroup: Int32Array;
  archived: Uint8Array;
}

export function termPlaces(
  { targets, adGroups }: Pick<Objects, 'targets' | 'adGroups'>,
  pairs: Pick<Pairs, 'target' | 'term'>,
): TermPlaces {
  const places = new PairPlaces();
  const adGroupOf = Int32Array.from(targets, ({ adGroup, status }) =>
    status === 'archived' ? adGroups.length + adGroup : adGroup,
  );
  const of = new Int32Array(pairs.target.length);
  for (let row = 0; row < of.length; row++)
    of[row] = places.add(adGroupOf[pairs.target[row]!]!, pairs.term[row]!);
  const archived = new Uint8Array(places.count);
  const adGroup = places.columns().left;
  for (let place = 0; place < places.count; place++) {
    if (adGroup[place]! < adGroups.length) continue;
    archived[place] = 1;
    adGroup[place]! -= adGroups.length;
  }
  return { of, count: places.count, adGroup, archived };
}
