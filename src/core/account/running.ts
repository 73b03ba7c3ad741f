import type { Day } from '../metrics/days.ts';
import type { Objects } from './store.ts';

/** What of an account runs on a day: said once, for every view of it. By place in the lists of the account. */
export interface Running {
  /** Enabled, and not ended before the day. */
  campaign: (place: number) => boolean;
  /** Enabled, and its campaign runs. */
  adGroup: (place: number) => boolean;
  /** Enabled, and its ad group runs: it can catch something. */
  target: (place: number) => boolean;
  /** Why a target does not run, as a part of a sentence; null when it does. */
  stopped: (place: number) => string | null;
}

/** A campaign runs on the last of its days too. */
export function runningOn({ campaigns, adGroups, targets }: Objects, day: Day): Running {
  const hasEnded = (place: number): boolean => {
    const { endDate } = campaigns[place]!;
    return endDate !== null && endDate < day;
  };
  const campaign = (place: number) => campaigns[place]!.status === 'enabled' && !hasEnded(place);
  const ofGroups = Uint8Array.from(adGroups, (one) =>
    one.status === 'enabled' && campaign(one.campaign) ? 1 : 0,
  );
  const adGroup = (place: number) => ofGroups[place] === 1;
  return {
    campaign,
    adGroup,
    target: (place) => targets[place]!.status === 'enabled' && adGroup(targets[place]!.adGroup),
    stopped: (place) => {
      const target = targets[place]!;
      const group = adGroups[target.adGroup]!;
      const { status, endDate } = campaigns[group.campaign]!;
      if (status !== 'enabled') return `its campaign is ${status}`;
      if (hasEnded(group.campaign)) return `its campaign ended on ${endDate}`;
      if (group.status !== 'enabled') return `its ad group is ${group.status}`;
      return target.status === 'enabled' ? null : `it is ${target.status}`;
    },
  };
}
