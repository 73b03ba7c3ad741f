import { LaneMap, type Lane, type LaneAdGroup } from './lanes.ts';
import { proposeLanes } from './propose.ts';
import type { Running } from '../account/running.ts';
import type { Objects } from '../account/store.ts';

/** Sending terms down their lane from the table: as the round would, but for whatever rows the specialist names. */

/** The account's ad groups as lanes see them, by id. */
export function laneAdGroups(
  { adGroups, campaigns, targets }: Objects,
  runs: Running,
): Map<string, LaneAdGroup> {
  const made = adGroups.map((adGroup, place) => {
    const campaign = campaigns[adGroup.campaign]!;
    return {
      adGroupId: adGroup.id,
      campaignId: campaign.id,
      name: adGroup.name,
      campaign: campaign.name,
      automatic: campaign.kind === 'automatic',
      sku: adGroup.sku,
      enabled: runs.adGroup(place),
      archived: adGroup.status === 'archived' || campaign.status === 'archived',
      targetKinds: new Set<string>(),
      matchTypes: new Set<string>(),
    };
  });
  for (const { adGroup, kind, matchType, status } of targets) {
    if (status === 'archived') continue;
    made[adGroup]!.targetKinds.add(kind);
    if (matchType !== null) made[adGroup]!.matchTypes.add(matchType);
  }
  return new Map(made.map((adGroup) => [adGroup.adGroupId, adGroup]));
}

/** Where a term of an ad group goes: places of ad groups in their list. */
export interface Destination {
  adGroup: number;
  lane: Lane;
  /** Research ad groups in which it is blocked from then on. */
  isolateIn: number[];
}

/** Lanes of the account; the answer is a sentence where a term has nowhere to go. */
export class Lanes {
  private readonly map: LaneMap;
  private readonly placeOf: Map<string, number>;
  private readonly itemCode: RegExp;

  constructor(
    private readonly objects: Objects,
    runs: Running,
    itemCode: string,
    /** As they were saved; null: read from the account. */
    saved: readonly Lane[] | null,
  ) {
    const adGroups = laneAdGroups(objects, runs);
    this.map = new LaneMap(saved ?? proposeLanes(adGroups.values()), adGroups);
    this.placeOf = new Map(objects.adGroups.map(({ id }, i) => [id, i]));
    this.itemCode = new RegExp(itemCode, 'iu');
  }

  of(adGroup: number, term: string): Destination | string {
    const { id, name } = this.objects.adGroups[adGroup]!;
    const kind = this.itemCode.test(term) ? 'item' : 'keyword';
    const lane = this.map.of(id, kind);
    if (!lane) return `No lane for ${kind}s leads out of ${name}.`;
    const places = this.map.isolateIn(lane).map((one) => this.placeOf.get(one)!);
    return { adGroup: this.placeOf.get(lane.destination)!, lane, isolateIn: places };
  }
}
