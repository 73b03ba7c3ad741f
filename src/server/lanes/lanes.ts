import type { CheckedLane, LaneMapAnswer } from '../../answers/lanes.ts';
import { savedLanes } from '../account/lanes.queries.ts';
import { withComparison } from '../../core/explore/columns.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { tables } from '../engine/link.ts';
import { laneProblems, type Lane, type LaneAdGroup } from '../../core/lanes/lanes.ts';
import { proposeLanes } from '../../core/lanes/propose.ts';
import type { Window } from '../../core/metrics/days.ts';
import { getAccount } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { laneAdGroupRows, replaceLanes, type LaneAdGroupRow } from './queries.ts';

/** Lanes: the saved set of the account, what could be proposed, and whether each can stand. */

const adGroupOf = (row: LaneAdGroupRow): LaneAdGroup => ({
  adGroupId: row.id,
  campaignId: row.campaign_id,
  name: row.name,
  campaign: row.campaign,
  automatic: row.campaign_kind === 'automatic',
  sku: row.sku,
  enabled: row.status === 'enabled' && row.campaign_status === 'enabled' && !row.ended,
  archived: row.status === 'archived' || row.campaign_status === 'archived',
  targetKinds: new Set(row.kinds),
  matchTypes: new Set(row.match_types),
});

/** The account's ad groups as lanes see them, by id, with their rows. */
export async function laneGround(accountId: number) {
  const { today } = await getAccount(db(), accountId);
  const rows = await laneAdGroupRows(db(), accountId, today);
  return { rows, adGroups: new Map(rows.map((row) => [row.id, adGroupOf(row)])) };
}

const checked = (lanes: readonly Lane[], adGroups: ReadonlyMap<string, LaneAdGroup>): CheckedLane[] => {
  const problems = laneProblems(lanes, adGroups);
  return lanes.map((lane, at) => ({ ...lane, problem: problems.get(at) ?? null }));
};

/** The lanes in force with what went down each in a window; whether they were saved; what would be proposed. */
export async function laneMapOf(accountId: number, window: Window): Promise<LaneMapAnswer> {
  const { adGroups } = await laneGround(accountId);
  const saved = await savedLanes(db(), accountId);
  const proposed = proposeLanes(adGroups.values());
  const lanes = saved ?? proposed;
  const map = await laneMap(accountId, window, lanes);
  return {
    saved: saved !== null,
    window,
    orders: map.orders,
    lanes: checked(lanes, adGroups).map((lane, at) => ({ ...lane, flow: map.flows[at]! })),
    proposed,
    adGroups: map.adGroups,
    products: Object.fromEntries((await productsOf(db(), accountId)).map(({ sku, title }) => [sku, title])),
  };
}

/** Puts a whole set in the place of the one before; null goes back to what the account proposes. All or nothing. */
export async function saveLanes(accountId: number, lanes: Lane[] | null): Promise<void> {
  if (lanes !== null) {
    const { adGroups } = await laneGround(accountId);
    // What worked when it was saved and has since been archived may stay; what is new must be able to work.
    const before = new Set((await savedLanes(db(), accountId))?.map((lane) => JSON.stringify(lane)));
    for (const [at, { field, message }] of laneProblems(lanes, adGroups)) {
      if (before.has(JSON.stringify(lanes[at]))) continue;
      throw new ServiceError(422, 'no_lane', message, { field: `lanes.${at}.${field}` });
    }
  }
  await db().begin((tx) => replaceLanes(tx as Transaction, accountId, lanes));
}

/** What went down lanes in a window, and the ad groups of their map. */
export async function laneMap(accountId: number, window: Window, lanes: readonly Lane[]) {
  const map = await tables().laneMap(await editionOf(accountId), withComparison(window), lanes);
  if (!map) throw noFigures();
  return map;
}
