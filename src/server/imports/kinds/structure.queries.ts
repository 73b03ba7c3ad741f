import type { Transaction } from '../../db/connection.ts';
import { noteOutsideChanges } from './outside.queries.ts';

/** SQL that brings a staged structure file or answer into the account. */

/**
 * Merges the staged structure; `whole` archives what is not in it. A bid that differs from the one known is a
 * change on `day`. Objects are met by id, else by the path of names; `ckey` and `gkey` hold whichever it is.
 */
export async function mergeStructure(
  tx: Transaction,
  accountId: number,
  day: string,
  whole: boolean,
): Promise<void> {
  await tx`
    create temporary table keyed on commit drop as
    select *, coalesce('#' || campaign_id, campaign) as ckey,
      coalesce('#' || ad_group_id, campaign || chr(31) || ad_group) as gkey
    from staged_structure`;
  await tx`analyze keyed`;
  await noteOutsideChanges(tx, accountId, day);
  await tx`
    insert into budget_group
    select ${accountId}, budget_group_id, coalesce(min(budget_group), budget_group_id), min(daily_budget) from keyed
    where entity = 'budget_group' and budget_group_id is not null group by budget_group_id
    on conflict (account_id, ext_id) do update
      set name = excluded.name, daily_budget = coalesce(excluded.daily_budget, budget_group.daily_budget)`;
  await mergeCampaigns(tx, accountId);
  await mergeAdGroups(tx, accountId);
  await mergeTargets(tx, accountId, day);
  await mergeNegatives(tx, accountId);
  await mergeCreatives(tx, accountId);
  await mergeCollections(tx, accountId, day);
  if (whole) await archiveMissing(tx, accountId);
}

async function mergeCampaigns(tx: Transaction, accountId: number): Promise<void> {
  // Objects known by name only learn their ids, so that a renamed object keeps its history from here on.
  await tx`
    update campaign c set ext_id = s.campaign_id from keyed s
    where s.entity = 'campaign' and c.account_id = ${accountId} and c.ext_id is null
      and c.name = s.campaign and s.campaign_id is not null
      and not exists (select 1 from campaign x where x.account_id = ${accountId} and x.ext_id = s.campaign_id)`;
  await tx`
    insert into campaign (account_id, ext_id, name)
    select ${accountId}, campaign_id, min(campaign) from keyed s
    where campaign_id is not null and campaign is not null
      and not exists (select 1 from campaign c where c.account_id = ${accountId} and c.ext_id = s.campaign_id)
    group by campaign_id`;
  await tx`
    insert into campaign (account_id, name)
    select distinct ${accountId}::bigint, campaign from keyed s
    where campaign_id is null and campaign is not null
      and not exists (select 1 from campaign c where c.account_id = ${accountId} and c.name = s.campaign)`;
  await tx`
    create temporary table parent on commit drop as
    select '#' || ext_id as ckey, campaign_id as id from campaign where account_id = ${accountId} and ext_id is not null
    union all
    select name, min(campaign_id) from campaign where account_id = ${accountId} group by name`;
  await tx`analyze parent`;
  await tx`
    update campaign c set name = coalesce(s.campaign, c.name), kind = coalesce(s.kind, c.kind),
      daily_budget = case when s.lifetime_budget is null then coalesce(s.daily_budget, c.daily_budget) end,
      lifetime_budget = case when s.daily_budget is null then coalesce(s.lifetime_budget, c.lifetime_budget) end,
      pacing = coalesce(s.pacing, c.pacing), strategy = coalesce(s.strategy, c.strategy),
      schedule = s.schedule,
      start_date = coalesce(s.start_date, c.start_date), end_date = s.end_date,
      status = coalesce(s.status, c.status), budget_group = s.budget_group_id
    from keyed s join parent p using (ckey)
    where s.entity = 'campaign' and c.account_id = ${accountId} and c.campaign_id = p.id`;
  await tx`
    insert into placement_modifier
    select ${accountId}, p.id, s.placement, max(coalesce(s.modifier, 0))
    from keyed s join parent p using (ckey)
    where s.entity = 'placement_modifier' and s.placement is not null
    group by p.id, s.placement
    on conflict (account_id, campaign_id, placement) do update set modifier = excluded.modifier`;
}

async function mergeAdGroups(tx: Transaction, accountId: number): Promise<void> {
  await tx`
    update ad_group g set ext_id = s.ad_group_id from keyed s join parent p using (ckey)
    where s.entity = 'ad_group' and g.account_id = ${accountId} and g.ext_id is null and g.campaign_id = p.id
      and g.name = s.ad_group and s.ad_group_id is not null
      and not exists (select 1 from ad_group x where x.account_id = ${accountId} and x.ext_id = s.ad_group_id)`;
  await tx`
    insert into ad_group (account_id, campaign_id, ext_id, name)
    select ${accountId}, min(p.id), s.ad_group_id, min(s.ad_group) from keyed s join parent p using (ckey)
    where s.ad_group_id is not null and s.ad_group is not null
      and not exists (select 1 from ad_group g where g.account_id = ${accountId} and g.ext_id = s.ad_group_id)
    group by s.ad_group_id`;
  await tx`
    insert into ad_group (account_id, campaign_id, name)
    select distinct ${accountId}::bigint, p.id, s.ad_group from keyed s join parent p using (ckey)
    where s.ad_group_id is null and s.ad_group is not null
      and not exists (select 1 from ad_group g where g.account_id = ${accountId} and g.campaign_id = p.id
        and g.name = s.ad_group)`;
  await tx`
    create temporary table place on commit drop as
    select '#' || ext_id as gkey, ad_group_id as id, campaign_id from ad_group
    where account_id = ${accountId} and ext_id is not null
    union all
    select c.name || chr(31) || g.name, min(g.ad_group_id), min(g.campaign_id)
    from ad_group g join campaign c using (account_id, campaign_id) where account_id = ${accountId} group by 1`;
  await tx`analyze place`;
  await tx`
    update ad_group g set name = coalesce(s.ad_group, g.name), status = coalesce(s.status, g.status),
      default_bid = coalesce(s.default_bid, g.default_bid), rule = s.rule::jsonb,
      related_categories = coalesce(lower(s.related_categories) in ('true', 'yes', '1'), false)
    from keyed s join place p using (gkey)
    where s.entity = 'ad_group' and g.account_id = ${accountId} and g.ad_group_id = p.id`;
  await tx`
    insert into product_ad
    select ${accountId}, p.id, s.sku, min(coalesce(s.status, 'enabled'))
    from keyed s join place p using (gkey)
    where s.entity = 'product_ad' and s.sku is not null group by p.id, s.sku
    on conflict (account_id, ad_group_id, sku) do update set status = excluded.status`;
}

async function mergeTargets(tx: Transaction, accountId: number, day: string): Promise<void> {
  await tx`
    create temporary table staged_keyword on commit drop as
    select s.target_id as ext, coalesce(s.target_kind, 'keyword') as kind, s.match_type,
      coalesce(s.match_type, '') as match_key, s.expression, s.bid, s.status, p.id as parent_id
    from keyed s join place p using (gkey) where s.entity = 'target' and s.expression is not null`;
  await tx`create index on staged_keyword (ext)`;
  await tx`analyze staged_keyword`;
  await tx`
    update target t set ext_id = s.ext from staged_keyword s
    where t.account_id = ${accountId} and t.ext_id is null and s.ext is not null and t.ad_group_id = s.parent_id
      and t.expression = s.expression and coalesce(t.match_type, '') = s.match_key
      and not exists (select 1 from target x where x.account_id = ${accountId} and x.ext_id = s.ext)`;
  await tx`
    create temporary table met on commit drop as
    select t.target_id, s.bid, s.status, s.expression, t.bid as before, s.ext, s.parent_id, s.match_key
    from staged_keyword s join target t on t.account_id = ${accountId} and t.ext_id = s.ext
    union all
    select t.target_id, s.bid, s.status, s.expression, t.bid, s.ext, s.parent_id, s.match_key
    from staged_keyword s join target t on t.account_id = ${accountId} and t.ad_group_id = s.parent_id
      and t.expression = s.expression and coalesce(t.match_type, '') = s.match_key
    where s.ext is null`;
  await tx`
    insert into target_bid
    select ${accountId}, target_id, ${day}, max(bid) from met
    where bid is not null and before is distinct from bid group by target_id
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
      select ${accountId}, s.parent_id, s.ext, s.kind, s.match_type, s.expression, s.bid,
        coalesce(s.status, 'enabled')
      from staged_keyword s
      where s.ext is not null
          and not exists (select 1 from target t where t.account_id = ${accountId} and t.ext_id = s.ext)
        or s.ext is null and not exists (select 1 from met m where m.ext is null and m.parent_id = s.parent_id
          and m.expression = s.expression and m.match_key = s.match_key)
      returning target_id, bid)
    -- A bid seen first was there before the day: what is changed on this very day must not take its place.
    insert into target_bid select ${accountId}, target_id, ${day}::date - 1, bid from made where bid is not null
    on conflict do nothing`;
}

async function mergeNegatives(tx: Transaction, accountId: number): Promise<void> {
  await tx`
    create temporary table staged_negative on commit drop as
    select s.negative_id as ext, s.match_type, s.expression, s.status, p.id as campaign_id, g.id as ad_group_id,
      p.id || ':' || coalesce(g.id::text, '') || ':' || s.match_type || ':' || s.expression as path
    from keyed s join parent p using (ckey) left join place g on s.ad_group is not null and g.gkey = s.gkey
    where s.entity = 'negative' and s.expression is not null and s.match_type is not null`;
  await tx`
    create temporary table known_negative on commit drop as
    select negative_id, ext_id,
      campaign_id || ':' || coalesce(ad_group_id::text, '') || ':' || match_type || ':' || expression as path
    from negative where account_id = ${accountId}`;
  await tx`analyze staged_negative, known_negative`;
  await tx`
    update negative n set status = coalesce(s.status, n.status)
    from staged_negative s where n.account_id = ${accountId} and n.ext_id = s.ext`;
  await tx`
    update negative n set status = coalesce(s.status, n.status), ext_id = coalesce(n.ext_id, s.ext)
    from staged_negative s join known_negative k using (path)
    where n.account_id = ${accountId} and n.negative_id = k.negative_id and (k.ext_id is null or s.ext is null)
      and not exists (select 1 from negative x where x.account_id = ${accountId} and x.ext_id = s.ext)`;
  await tx`
    insert into negative (account_id, campaign_id, ad_group_id, ext_id, match_type, expression, status)
    select distinct on (coalesce('#' || s.ext, s.path)) ${accountId}::bigint, s.campaign_id, s.ad_group_id, s.ext,
      s.match_type, s.expression, coalesce(s.status, 'enabled')
    from staged_negative s
    where s.ext is not null
        and not exists (select 1 from negative n where n.account_id = ${accountId} and n.ext_id = s.ext)
      or s.ext is null and not exists (select 1 from known_negative k where k.path = s.path)`;
}

/** Pictures and titles of ad groups; those of ad groups named here that are not named themselves are archived. */
async function mergeCreatives(tx: Transaction, accountId: number): Promise<void> {
  await tx`
    insert into creative (account_id, ad_group_id, ext_id, kind, value, status)
    select distinct on (s.creative_id) ${accountId}::bigint, p.id, s.creative_id, s.entity, s.expression,
      coalesce(s.status, 'enabled')
    from keyed s join place p using (gkey)
    where s.entity in ('picture', 'title', 'left_out') and s.creative_id is not null
    on conflict (account_id, ext_id) do update set status = excluded.status, value = excluded.value`;
}

/** Products that a rule chooses: who joined and who left since the structure was read last. */
async function mergeCollections(tx: Transaction, accountId: number, day: string): Promise<void> {
  await tx`
    create temporary table collected on commit drop as
    select p.id as ad_group_id, m.sku from keyed s join place p using (gkey)
    left join (select gkey, sku from keyed where entity = 'product_ad' and coalesce(status, 'enabled') = 'enabled') m using (gkey)
    where s.entity = 'ad_group' and s.rule is not null`;
  // Whoever was never told of is new; whoever is not told of any more has left.
  await tx`
    insert into collection_change
    select ${accountId}::bigint, c.ad_group_id, c.sku, ${day}::date, true from collected c
    where c.sku is not null and not coalesce((select h.joined from collection_change h where h.account_id = ${accountId}
      and h.ad_group_id = c.ad_group_id and h.sku = c.sku order by h.day desc limit 1), false)
    on conflict (account_id, ad_group_id, sku, day) do update set joined = true`;
  await tx`
    with last as (
      select distinct on (h.ad_group_id, h.sku) h.ad_group_id, h.sku, h.joined from collection_change h
      where h.account_id = ${accountId} and h.ad_group_id in (select ad_group_id from collected)
      order by h.ad_group_id, h.sku, h.day desc)
    insert into collection_change
    select ${accountId}::bigint, l.ad_group_id, l.sku, ${day}::date, false from last l
    where l.joined and not exists (select 1 from collected c where c.ad_group_id = l.ad_group_id and c.sku = l.sku)
    on conflict (account_id, ad_group_id, sku, day) do update set joined = false`;
  await tx`
    update product_ad a set status = 'archived'
    where a.account_id = ${accountId} and a.ad_group_id in (select ad_group_id from collected)
      and not exists (select 1 from collected c where c.ad_group_id = a.ad_group_id and c.sku = a.sku)`;
}

async function archiveMissing(tx: Transaction, accountId: number): Promise<void> {
  await tx`
    update target t set status = 'archived' where t.account_id = ${accountId} and t.status <> 'archived'
      and t.ext_id is not null and not exists (select 1 from staged_structure s where s.target_id = t.ext_id)`;
  await tx`
    update negative n set status = 'archived' where n.account_id = ${accountId} and n.status <> 'archived'
      and n.ext_id is not null and not exists (select 1 from staged_structure s where s.negative_id = n.ext_id)`;
  await tx`
    update creative v set status = 'archived' where v.account_id = ${accountId} and v.status <> 'archived'
      and not exists (select 1 from staged_structure s where s.creative_id = v.ext_id)`;
  await tx`
    update campaign c set status = 'archived' where c.account_id = ${accountId} and c.status <> 'archived'
      and c.ext_id is not null
      and not exists (select 1 from staged_structure s where s.campaign_id = c.ext_id and s.entity = 'campaign')`;
}
