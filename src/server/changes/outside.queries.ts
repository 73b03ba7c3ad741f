import type { OutsideChange } from '../../answers/changes.ts';
import type { Database } from '../db/connection.ts';

/** What was changed at the marketplace, the newest first. */
export async function outsideChanges(
  sql: Database,
  accountId: number,
  most: number,
): Promise<{ count: number; changes: OutsideChange[] }> {
  const changes = await sql<OutsideChange[]>`
    select o.day, o.entity, o.object_id::text as "objectId", o.field, o.old_value as "oldValue",
      o.new_value as "newValue", c.name as campaign, g.name as "adGroup",
      t.expression, t.match_type as "matchType", t.kind as "targetKind"
    from outside_change o
    join campaign c on c.account_id = o.account_id and c.campaign_id = o.campaign_id
    left join ad_group g on g.account_id = o.account_id and g.ad_group_id = o.ad_group_id
    left join target t on o.entity = 'target' and t.account_id = o.account_id and t.target_id = o.object_id
    where o.account_id = ${accountId}
    order by o.day desc, c.name, g.name nulls first, t.expression, o.field limit ${most}`;
  const [all] = await sql<{ count: number }[]>`
    select count(*)::int as count from outside_change where account_id = ${accountId}`;
  return { count: all!.count, changes };
}
