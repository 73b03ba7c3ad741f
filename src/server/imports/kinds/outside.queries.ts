import type { Transaction } from '../../db/connection.ts';

/**
 * What differs between the staged structure (`keyed`) and what was last known, before it is merged: nobody but the
 * marketplace changed it, since what sheets change is known as soon as it is applied. What an account's first structure
 * says is no change.
 */
export async function noteOutsideChanges(tx: Transaction, accountId: number, day: string): Promise<void> {
  const [before] = await tx`
    select 1 from import where account_id = ${accountId} and kind = 'structure' and state = 'loaded' limit 1`;
  if (!before) return;
  await tx`
    insert into outside_change (account_id, day, entity, object_id, field, campaign_id, ad_group_id, old_value, new_value)
    select distinct on (entity, object_id, field) ${accountId}::bigint, ${day}::date, entity, object_id, field,
      campaign_id, ad_group_id, old_value, new_value
    from (
      select 'campaign' as entity, c.campaign_id as object_id, v.field, c.campaign_id, null::bigint as ad_group_id,
        v.old_value, v.new_value
      from keyed s join campaign c on c.account_id = ${accountId} and c.ext_id = s.campaign_id
      cross join lateral (values
        ('status', c.status, s.status), ('daily_budget', c.daily_budget::text, s.daily_budget::text),
        ('strategy', c.strategy, s.strategy), ('schedule', coalesce(c.schedule, ''), coalesce(s.schedule, '')), ('name', c.name, s.campaign),
        ('end_date', coalesce(c.end_date::text, ''), coalesce(s.end_date::text, ''))) v (field, old_value, new_value)
      where s.entity = 'campaign'
      union all
      select 'ad_group', g.ad_group_id, v.field, g.campaign_id, g.ad_group_id, v.old_value, v.new_value
      from keyed s join ad_group g on g.account_id = ${accountId} and g.ext_id = s.ad_group_id
      cross join lateral (values
        ('status', g.status, s.status), ('default_bid', g.default_bid::text, s.default_bid::text),
        ('rule', g.rule::text, s.rule::jsonb::text)) v (field, old_value, new_value)
      where s.entity = 'ad_group'
      union all
      select 'target', t.target_id, v.field, g.campaign_id, t.ad_group_id, v.old_value, v.new_value
      from keyed s join target t on t.account_id = ${accountId} and t.ext_id = s.target_id
      join ad_group g on g.account_id = t.account_id and g.ad_group_id = t.ad_group_id
      cross join lateral (values
        ('status', t.status, s.status), ('bid', t.bid::text, s.bid::text)) v (field, old_value, new_value)
      where s.entity = 'target'
      union all
      select 'placement_modifier', c.campaign_id, s.placement, c.campaign_id, null, m.modifier::text, s.modifier::text
      from keyed s join campaign c on c.account_id = ${accountId} and c.ext_id = s.campaign_id
      join placement_modifier m on m.account_id = ${accountId} and m.campaign_id = c.campaign_id
        and m.placement = s.placement
      where s.entity = 'placement_modifier'
    ) d
    where old_value is not null and new_value is not null and old_value <> new_value
    on conflict (account_id, day, entity, object_id, field) do update set new_value = excluded.new_value`;
}
