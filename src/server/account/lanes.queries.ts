import type { Database, Transaction } from '../db/connection.ts';
import type { Lane } from '../../core/lanes/lanes.ts';

/** The saved lanes; null while the account has no set of its own. */
export async function savedLanes(sql: Database | Transaction, accountId: number): Promise<Lane[] | null> {
  const [account] = await sql<{ lanes_saved: boolean }[]>`
    select lanes_saved from account where account_id = ${accountId}`;
  if (!account?.lanes_saved) return null;
  return sql<Lane[]>`
    select source_id::text as source, destination_id::text as destination, kind, match_type as "matchType",
      least_orders as "leastOrders", least_clicks as "leastClicks", goal_share as "goalShare", days,
      first_bid as "firstBid", fixed_bid as "fixedBid", isolate
    from lane where account_id = ${accountId} order by source_id, kind desc`;
}
