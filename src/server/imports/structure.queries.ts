import type { Transaction } from '../db/connection.ts';

/** SQL that brings a structure file or answer into the account. Rows are staged as JSON by entity. */

export async function stageStructure(tx: Transaction): Promise<void> {
  await tx`create temporary table staged_structure (
    entity text, campaign_id text, campaign text, ad_group_id text, ad_group text, target_id text,
    negative_id text, status text, kind text, daily_budget bigint, strategy text, start_date date, end_date date,
    placement text, modifier double precision, default_bid bigint, sku text, target_kind text, match_type text,
    expression text, bid bigint, scope text, budget_group_id text, budget_group text) on commit drop`;
}

export async function addStructureRows(tx: Transaction, rows: Record<string, unknown>[]): Promise<void> {
  await tx`
    insert into staged_structure
    select * from jsonb_populate_recordset(null::staged_structure, ${tx.json(rows as never)})`;
}

/**
 * Merges the staged structure; `whole` archives what is not in it. A bid that differs from the one known is a
 * change on `day`. Returns how many objects stand in the staging.
 */
export async function mergeStructure(
  tx: Transaction,
  accountId: number,
  day: string,
  whole: boolean,
): Promise<void> {
  await tx`analyze staged_structure`;
  // Objects known by name only learn their ids, so that a renamed object keeps its history from here on.
  await tx`
    update campaign c set ext_id = s.campaign_id from staged_structure s
    where s.entity = 'campaign' and c.account_id = ${accountId} and c.ext_id is null
      and c.name = s.campaign and s.campaign_id is not null
      and not exists (select 1 from campaign x where x.account_id = ${accountId} and x.ext_id = s.campaign_id)`;
  await tx`
    update campaign c set name = coalesce(s.campaign, c.name), kind = coalesce(s.kind, c.kind),
      daily_budget = coalesce(s.daily_budget, c.daily_budget), strategy = coalesce(s.strategy, c.strategy),
      start_date = coalesce(s.start_date, c.start_date), end_date = s.end_date,
      status = coalesce(s.status, c.status), budget_group = s.budget_group_id
    from staged_structure s
    where s.entity = 'campaign' and c.account_id = ${accountId}
      and case when s.campaign_id is null then c.name = s.campaign else c.ext_id = s.campaign_id end`;
  await tx`
    insert into campaign (account_id, ext_id, name, kind, daily_budget, strategy, start_date, end_date, status,
      budget_group)
    select ${accountId}, s.campaign_id, s.campaign, coalesce(s.kind, 'manual'), s.daily_budget, s.strategy,
      s.start_date, s.end_date, coalesce(s.status, 'enabled'), s.budget_group_id
    from staged_structure s
    where s.entity = 'campaign' and not exists (select 1 from campaign c where c.account_id = ${accountId}
      and case when s.campaign_id is null then c.name = s.campaign else c.ext_id = s.campaign_id end)`;
  await tx`
    create temporary table parent on commit drop as
    select distinct on (coalesce(s.campaign_id, s.campaign)) s.campaign_id as ext, s.campaign as name,
      c.campaign_id as id
    from staged_structure s join campaign c on c.account_id = ${accountId}
      and case when s.campaign_id is null then c.name = s.campaign else c.ext_id = s.campaign_id end`;
  await tx`
    insert into placement_modifier
    select ${accountId}, p.id, s.placement, coalesce(s.modifier, 0)
    from staged_structure s join parent p on p.ext is not distinct from s.campaign_id and (p.ext is not null or p.name = s.campaign)
    where s.entity = 'placement_modifier' and s.placement is not null
    on conflict (account_id, campaign_id, placement) do update set modifier = excluded.modifier`;
  await tx`
    create temporary table staged_group on commit drop as
    select s.*, p.id as parent_id from staged_structure s
    join parent p on p.ext is not distinct from s.campaign_id and (p.ext is not null or p.name = s.campaign)
    where s.entity = 'ad_group'`;
  await tx`
    update ad_group g set ext_id = s.ad_group_id from staged_group s
    where g.account_id = ${accountId} and g.ext_id is null and g.campaign_id = s.parent_id and g.name = s.ad_group
      and s.ad_group_id is not null
      and not exists (select 1 from ad_group x where x.account_id = ${accountId} and x.ext_id = s.ad_group_id)`;
  await tx`
    update ad_group g set name = coalesce(s.ad_group, g.name), status = coalesce(s.status, g.status),
      default_bid = coalesce(s.default_bid, g.default_bid)
    from staged_group s where g.account_id = ${accountId}
      and case when s.ad_group_id is null then g.campaign_id = s.parent_id and g.name = s.ad_group
        else g.ext_id = s.ad_group_id end`;
  await tx`
    insert into ad_group (account_id, campaign_id, ext_id, name, default_bid, status)
    select ${accountId}, s.parent_id, s.ad_group_id, s.ad_group, s.default_bid, coalesce(s.status, 'enabled')
    from staged_group s where not exists (select 1 from ad_group g where g.account_id = ${accountId}
      and case when s.ad_group_id is null then g.campaign_id = s.parent_id and g.name = s.ad_group
        else g.ext_id = s.ad_group_id end)`;
  await tx`
    create temporary table place on commit drop as
    select distinct on (coalesce(s.ad_group_id, s.campaign || chr(31) || s.ad_group)) s.ad_group_id as ext,
      s.campaign as campaign, s.ad_group as name, g.ad_group_id as id, g.campaign_id as campaign_id
    from staged_structure s
    join parent p on p.ext is not distinct from s.campaign_id and (p.ext is not null or p.name = s.campaign)
    join ad_group g on g.account_id = ${accountId}
      and case when s.ad_group_id is null then g.campaign_id = p.id and g.name = s.ad_group
        else g.ext_id = s.ad_group_id end
    where s.ad_group is not null`;
  await tx`
    insert into product_ad
    select distinct ${accountId}::bigint, g.id, s.sku, coalesce(s.status, 'enabled')
    from staged_structure s join place g on g.ext is not distinct from s.ad_group_id
      and (g.ext is not null or (g.campaign = s.campaign and g.name = s.ad_group))
    where s.entity = 'product_ad' and s.sku is not null
    on conflict (account_id, ad_group_id, sku) do update set status = excluded.status`;
  await mergeTargets(tx, accountId, day);
  await mergeNegatives(tx, accountId);
  if (whole) await archiveMissing(tx, accountId);
}

async function mergeTargets(tx: Transaction, accountId: number, day: string): Promise<void> {
  await tx`
    create temporary table staged_keyword on commit drop as
    select s.target_id as ext, s.target_kind, s.match_type, s.expression, s.bid, s.status, g.id as parent_id
    from staged_structure s join place g on g.ext is not distinct from s.ad_group_id
      and (g.ext is not null or (g.campaign = s.campaign and g.name = s.ad_group))
    where s.entity = 'target' and s.expression is not null`;
  await tx`create index on staged_keyword (ext)`;
  await tx`
    update target t set ext_id = s.ext from staged_keyword s
    where t.account_id = ${accountId} and t.ext_id is null and s.ext is not null and t.ad_group_id = s.parent_id
      and t.expression = s.expression and t.match_type is not distinct from s.match_type
      and not exists (select 1 from target x where x.account_id = ${accountId} and x.ext_id = s.ext)`;
  await tx`
    create temporary table met on commit drop as
    select t.target_id, s.bid, s.status, s.expression, t.bid as before
    from staged_keyword s join target t on t.account_id = ${accountId}
      and case when s.ext is null then t.ad_group_id = s.parent_id and t.expression = s.expression
        and t.match_type is not distinct from s.match_type else t.ext_id = s.ext end`;
  await tx`
    insert into target_bid
    select ${accountId}, target_id, ${day}, bid from met where bid is not null and before is distinct from bid
    on conflict (account_id, target_id, day) do update set bid = excluded.bid`;
  await tx`
    update target t set bid = coalesce(m.bid, t.bid), status = coalesce(m.status, t.status),
      expression = m.expression,
      bid_changed_on = case when m.before is not null and m.bid <> m.before then ${day}::date
        else t.bid_changed_on end
    from met m where t.account_id = ${accountId} and t.target_id = m.target_id`;
  await tx`
    with made as (
      insert into target (account_id, ad_group_id, ext_id, kind, match_type, expression, bid, status)
      select ${accountId}, s.parent_id, s.ext, coalesce(s.target_kind, 'keyword'), s.match_type, s.expression,
        s.bid, coalesce(s.status, 'enabled')
      from staged_keyword s where not exists (select 1 from target t where t.account_id = ${accountId}
        and case when s.ext is null then t.ad_group_id = s.parent_id and t.expression = s.expression
          and t.match_type is not distinct from s.match_type else t.ext_id = s.ext end)
      returning target_id, bid)
    insert into target_bid select ${accountId}, target_id, ${day}, bid from made where bid is not null
    on conflict do nothing`;
}

async function mergeNegatives(tx: Transaction, accountId: number): Promise<void> {
  await tx`
    create temporary table staged_negative on commit drop as
    select s.negative_id as ext, s.match_type, s.expression, s.status, p.id as campaign_id, g.id as ad_group_id
    from staged_structure s
    join parent p on p.ext is not distinct from s.campaign_id and (p.ext is not null or p.name = s.campaign)
    left join place g on s.ad_group is not null and g.ext is not distinct from s.ad_group_id
      and (g.ext is not null or (g.campaign = s.campaign and g.name = s.ad_group))
    where s.entity = 'negative' and s.expression is not null`;
  await tx`
    update negative n set status = coalesce(s.status, n.status), ext_id = coalesce(n.ext_id, s.ext)
    from staged_negative s where n.account_id = ${accountId}
      and (n.ext_id = s.ext or ((n.ext_id is null or s.ext is null) and n.campaign_id = s.campaign_id
        and n.ad_group_id is not distinct from s.ad_group_id and n.match_type = s.match_type
        and n.expression = s.expression))`;
  await tx`
    insert into negative (account_id, campaign_id, ad_group_id, ext_id, match_type, expression, status)
    select ${accountId}, s.campaign_id, s.ad_group_id, s.ext, s.match_type, s.expression,
      coalesce(s.status, 'enabled')
    from staged_negative s where not exists (select 1 from negative n where n.account_id = ${accountId}
      and (n.ext_id = s.ext or (s.ext is null and n.campaign_id = s.campaign_id
        and n.ad_group_id is not distinct from s.ad_group_id and n.match_type = s.match_type
        and n.expression = s.expression)))`;
}

async function archiveMissing(tx: Transaction, accountId: number): Promise<void> {
  await tx`
    update target t set status = 'archived' where t.account_id = ${accountId} and t.status <> 'archived'
      and t.ext_id is not null and not exists (select 1 from staged_structure s where s.target_id = t.ext_id)`;
  await tx`
    update negative n set status = 'archived' where n.account_id = ${accountId} and n.status <> 'archived'
      and n.ext_id is not null and not exists (select 1 from staged_structure s where s.negative_id = n.ext_id)`;
  await tx`
    update campaign c set status = 'archived' where c.account_id = ${accountId} and c.status <> 'archived'
      and c.ext_id is not null
      and not exists (select 1 from staged_structure s where s.campaign_id = c.ext_id and s.entity = 'campaign')`;
}
