import { readLanes, type Lane, type LaneAdGroup } from '../terms/lanes.ts';
import type { Objects } from './store.ts';

/** Sending terms down their lane from the table: as the round would, but for whatever rows the specialist names. */

/** The account's ad groups as lanes see them. */
export function laneAdGroups({ adGroups, campaigns, targets }: Objects): LaneAdGroup[] {
  const made = adGroups.map((adGroup) => {
    const campaign = campaigns[adGroup.campaign]!;
    return {
      adGroupId: adGroup.id,
      campaignId: campaign.id,
      name: adGroup.name,
      campaign: campaign.name,
      automatic: campaign.kind === 'automatic',
      sku: adGroup.sku,
      enabled: adGroup.status === 'enabled' && campaign.status === 'enabled',
      targetKinds: new Set<string>(),
      matchTypes: new Set<string>(),
    };
  });
  for (const { adGroup, kind, matchType, status } of targets) {
    if (status === 'archived') continue;
    made[adGroup]!.targetKinds.add(kind);
    if (matchType !== null) made[adGroup]!.matchTypes.add(matchType);
  }
  return made;
}

/** Where a term of an ad group goes: places of ad groups in their list. */
export interface Destination {
  adGroup: number;
  targetKind: 'keyword' | 'item';
  /** Research ad groups of the same product, in which it is blocked from then on. */
  isolateIn: number[];
}

/** Lanes of the account; the answer is a sentence where a term has nowhere to go. */
export class Lanes {
  private readonly lanes: Map<string, Lane>;
  private readonly placeOf: Map<string, number>;
  private readonly itemCode: RegExp;

  constructor(
    private readonly objects: Objects,
    itemCode: string,
  ) {
    this.lanes = new Map(readLanes(laneAdGroups(objects)).map((lane) => [lane.source, lane]));
    this.placeOf = new Map(objects.adGroups.map(({ id }, i) => [id, i]));
    this.itemCode = new RegExp(itemCode, 'iu');
  }

  of(adGroup: number, term: string): Destination | string {
    const { adGroups } = this.objects;
    const lane = this.lanes.get(adGroups[adGroup]!.id);
    if (!lane) return 'Its ad group is not research: no lane begins there.';
    const isItem = this.itemCode.test(term);
    const destination = isItem ? lane.items : lane.keywords;
    if (destination === null)
      return `Its product has no ${isItem ? 'product-target' : 'exact keyword'} ad group to go to.`;
    const { sku } = adGroups[adGroup]!;
    const research = adGroups.flatMap((one, at) => (one.sku === sku && this.lanes.has(one.id) ? [at] : []));
    return {
      adGroup: this.placeOf.get(destination)!,
      targetKind: isItem ? 'item' : 'keyword',
      isolateIn: research,
    };
  }
}
