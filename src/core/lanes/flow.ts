import type { Sums } from '../metrics/figures.ts';
import type { Micros } from '../metrics/money.ts';
import { isResearch, type Lane, type LaneAdGroup } from './lanes.ts';
import { variantForm } from '../text/normalise.ts';
import type { Running } from '../account/running.ts';
import { emptySums, SumsColumns, type Objects, type Pairs } from '../account/store.ts';

/** What went down a lane in a window, and what still leaks past it. */
export interface Flow {
  /** Orders, spend and sales, in the destination, of terms that the source has caught. */
  orders: number;
  spend: Micros;
  sales: Micros;
  /** How many of these terms had a click there. */
  terms: number;
  /** Terms that the destination serves and that still got clicks in the source, with what these cost. */
  leaks: number;
  leakSpend: Micros;
}

/** An ad group on the map of lanes, with its sums over the window. */
export interface MapAdGroup {
  id: string;
  name: string;
  campaign: string;
  sku: string | null;
  automatic: boolean;
  research: boolean;
  enabled: boolean;
  archived: boolean;
  sums: Sums;
}

export interface FlowGround {
  objects: Objects;
  runs: Running;
  pairs: Pairs;
  /** Sums of the window, of targets and of pairs. */
  targets: SumsColumns;
  terms: SumsColumns;
}

const isSingle = ({ kind, matchType }: Objects['targets'][number]): boolean =>
  kind === 'item' || matchType === 'exact';

/** Texts that each ad group serves by an exact keyword or an item, in their variant form. */
function servedForms({ targets }: Objects, runs: Running): Map<number, Set<string>> {
  const forms = new Map<number, Set<string>>();
  for (const [place, target] of targets.entries()) {
    if (!runs.target(place) || !isSingle(target)) continue;
    const known = forms.get(target.adGroup) ?? new Set();
    forms.set(target.adGroup, known.add(variantForm(target.expression)));
  }
  return forms;
}

export interface LaneFlows {
  /** In the order of the lanes. */
  flows: Flow[];
  /** Orders of all that came down any lane: a term that several sources caught counts once. */
  orders: number;
}

/** The flow of every lane. */
export function laneFlows({ objects, runs, pairs, terms }: FlowGround, lanes: readonly Lane[]): LaneFlows {
  let orders = 0;
  const placeOf = new Map(objects.adGroups.map(({ id }, place) => [id, place]));
  const flows = lanes.map((): Flow => ({ orders: 0, spend: 0, sales: 0, terms: 0, leaks: 0, leakSpend: 0 }));
  const into = new Map<number, number[]>();
  const outOf = new Map<number, number[]>();
  const note = (map: Map<number, number[]>, adGroup: string, lane: number) => {
    const place = placeOf.get(adGroup);
    if (place !== undefined) map.set(place, [...(map.get(place) ?? []), lane]);
  };
  lanes.forEach(({ source, destination }, lane) => {
    note(outOf, source, lane);
    note(into, destination, lane);
  });
  const caught = new Map<number, Set<number>>([...outOf.keys()].map((place) => [place, new Set()]));
  for (let row = 0; row < pairs.target.length; row++) {
    caught.get(objects.targets[pairs.target[row]!]!.adGroup)?.add(pairs.term[row]!);
  }
  const served = servedForms(objects, runs);
  const sourceOf = lanes.map(({ source }) => placeOf.get(source) ?? -1);
  const destinationOf = lanes.map(({ destination }) => placeOf.get(destination) ?? -1);
  for (let row = 0; row < pairs.target.length; row++) {
    if (terms.clicks[row] === 0) continue;
    const term = pairs.term[row]!;
    const { adGroup } = objects.targets[pairs.target[row]!]!;
    let cameDown = false;
    for (const lane of into.get(adGroup) ?? []) {
      if (!caught.get(sourceOf[lane]!)!.has(term)) continue;
      const flow = flows[lane]!;
      cameDown = true;
      flow.orders += terms.orders[row]!;
      flow.spend += terms.spend[row]!;
      flow.sales += terms.sales[row]!;
      flow.terms++;
    }
    if (cameDown) orders += terms.orders[row]!;
    const lanesOut = outOf.get(adGroup);
    if (!lanesOut) continue;
    const form = variantForm(pairs.texts[term]!);
    for (const lane of lanesOut) {
      if (!served.get(destinationOf[lane]!)?.has(form)) continue;
      const flow = flows[lane]!;
      flow.leaks++;
      flow.leakSpend += terms.spend[row]!;
    }
  }
  return { flows, orders };
}

/** The ad groups of the map: all that are not archived, and archived ones that a lane still names. */
export function mapAdGroups(
  { objects, targets }: Pick<FlowGround, 'objects' | 'targets'>,
  adGroups: ReadonlyMap<string, LaneAdGroup>,
  lanes: readonly Lane[],
): MapAdGroup[] {
  const named = new Set(lanes.flatMap(({ source, destination }) => [source, destination]));
  const sums = new SumsColumns(objects.adGroups.length).addGrouped(
    targets,
    Int32Array.from(objects.targets, ({ adGroup }) => adGroup),
  );
  return objects.adGroups.flatMap(({ id, name, sku }, place): MapAdGroup[] => {
    const adGroup = adGroups.get(id)!;
    if (adGroup.archived && !named.has(id)) return [];
    const { campaign, automatic, enabled, archived } = adGroup;
    const research = isResearch(adGroup);
    return [
      {
        id,
        name,
        campaign,
        sku,
        automatic,
        research,
        enabled,
        archived,
        sums: sums.read(place, emptySums()),
      },
    ];
  });
}
