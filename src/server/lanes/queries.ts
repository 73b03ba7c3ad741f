import type { Lane } from '../../core/lanes/lanes.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** An ad group as lanes and their files know it. */
export interface LaneAdGroupRow {
  id: string;
  ext_id: string | null;
  name: string;
  status: string;
  campaign_id: string;
  campaign: string;
  campaign_status: string;
  campaign_kind: string;
  sku: string | null;
  ended: boolean;
  kinds: string[];
  match_types: string[];
}

export async function laneAdGroupRows(
  sql: Database,
  accountId: number,
  today: string | null,
): Promise<LaneAdGroupRow[]> {
  return sql<LaneAdGroupRow[]>`
    select g.ad_group_id::text as id, g.ext_id, g.name, g.status, c.campaign_id::text, c.name as campaign,
      c.status as campaign_status, c.kind as campaign_kind, c.end_date < ${today}::date as ended,
      (select min(p.sku) from product_ad p where p.account_id = g.account_id and p.ad_group_id = g.ad_group_id
        and p.status = 'enabled') as sku,
      coalesce(t.kinds, '{}') as kinds, coalesce(t.match_types, '{}') as match_types
    from ad_group g join campaign c on c.account_id = g.account_id and c.campaign_id = g.campaign_id
    left join (
      select ad_group_id, array_agg(distinct kind) as kinds,
        array_agg(distinct match_type) filter (where match_type is not null) as match_types
      from target where account_id = ${accountId} and status <> 'archived' group by ad_group_id) t
      on t.ad_group_id = g.ad_group_id
    where g.account_id = ${accountId} order by c.name, g.name, g.ad_group_id`;
}

/** Puts a set of lanes in the place of the one before; null: the account has none of its own any more. */
export async function replaceLanes(
  tx: Transaction,
  accountId: number,
  lanes: readonly Lane[] | null,
): Promise<void> {
  await tx`delete from lane where account_id = ${accountId}`;
  await tx`
    insert into lane (account_id, source_id, destination_id, kind, match_type, least_orders, least_clicks, goal_share,
      days, first_bid, fixed_bid, isolate)
    select ${accountId}::bigint, source::bigint, destination::bigint, kind, "matchType", "leastOrders", "leastClicks",
      "goalShare", days, "firstBid", "fixedBid", isolate
    from jsonb_to_recordset(${tx.json((lanes ?? []) as never)}) as l (source text, destination text, kind text,
      "matchType" text, "leastOrders" int, "leastClicks" int, "goalShare" float8, days int, "firstBid" text,
      "fixedBid" bigint, isolate text)`;
  await tx`
    update account set lanes_version = lanes_version + 1, lanes_saved = ${lanes !== null}
    where account_id = ${accountId}`;
}
