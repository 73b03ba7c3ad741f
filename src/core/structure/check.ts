import type { StructureCampaign, StructureGround, StructureTarget } from './ground.ts';
import type { StructureFinding } from './types.ts';

/** What checks of structure share. */

/** What a check finds in a campaign; `at`: the place within it, where there can be several. */
export type Found = Omit<StructureFinding, 'key' | 'kind' | 'campaignId' | 'subject'> & { at?: string };
export type Check = (campaign: StructureCampaign, ground: StructureGround, taken: Set<string>) => Found[];

/** Beyond doubt: over its goal, or under it, at this chance. */
export const sure = 0.9;
/** Of many, so many are named. */
export const namesShown = 5;
export const cent = 10_000;

export const sum = <T>(list: readonly T[], of: (one: T) => number): number =>
  list.reduce((all, one) => all + of(one), 0);

export const spendOf = (targets: readonly StructureTarget[]): number => sum(targets, ({ spend }) => spend);
