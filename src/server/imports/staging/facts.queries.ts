import type { Transaction } from '../../db/connection.ts';

/** The facts that are loaded by the million. */
export type Fact = 'target_day' | 'term_day';

/** Temporary tables of one load, for the objects and terms that its rows name, by number. */
export async function makeStaging(tx: Transaction): Promise<void> {
  // Names and terms are met by hashing; a load is alone in its account, so it may take more memory for that.
  await tx`set local work_mem = '256MB'`;
  await tx`create temporary table staged_target (
    tno integer, campaign text, campaign_ext text, campaign_kind text, ad_group text, ad_group_ext text,
    target text, target_ext text, target_kind text, match_type text) on commit drop`;
  await tx`create temporary table staged_campaign (tno integer, campaign_id bigint) on commit drop`;
  await tx`create temporary table staged_ad_group (tno integer, ad_group_id bigint) on commit drop`;
  await tx`create temporary table staged_id (tno integer, target_id bigint) on commit drop`;
  await tx`create temporary table staged_term (sno integer, text text collate "C") on commit drop`;
}

/** Numbers out of "12,7,9": thousands of ids come cheaper as one text than as rows. */
const idList = (list: string | null | undefined): number[] => (list ? list.split(',').map(Number) : []);

/**
 * Finds or makes the campaigns, ad groups and targets that are staged: by id, else by the path of names. Their target
 * ids in the order of their numbers.
 */
export async function mergeObjects(tx: Transaction, accountId: number): Promise<number[]> {
  await tx`analyze staged_target`;
  await tx`
    insert into campaign (account_id, ext_id, name, kind)
    select ${accountId}, s.campaign_ext, min(s.campaign), coalesce(min(s.campaign_kind), 'manual')
    from staged_target s
    where s.campaign_ext is not null
      and not exists (select 1 from campaign c where c.account_id = ${accountId} and c.ext_id = s.campaign_ext)
    group by s.campaign_ext`;
  await tx`
    insert into campaign (account_id, name, kind)
    select ${accountId}, s.campaign, coalesce(min(s.campaign_kind), 'manual')
    from staged_target s
    where s.campaign_ext is null
      and not exists (select 1 from campaign c where c.account_id = ${accountId} and c.name = s.campaign)
    group by s.campaign`;
  // By id and by path apart: each branch then has an index to go by.
  await tx`
    insert into staged_campaign
    select s.tno, c.campaign_id
    from staged_target s join campaign c on c.account_id = ${accountId} and c.ext_id = s.campaign_ext
    union all
    select s.tno, c.campaign_id
    from staged_target s join (
      select distinct on (name) name, campaign_id from campaign where account_id = ${accountId}
      order by name, ext_id nulls last, campaign_id) c on c.name = s.campaign
    where s.campaign_ext is null`;
  await tx`analyze staged_campaign`;
  await tx`
    insert into ad_group (account_id, campaign_id, ext_id, name)
    select ${accountId}, min(m.campaign_id), s.ad_group_ext, min(s.ad_group)
    from staged_target s join staged_campaign m using (tno)
    where s.ad_group_ext is not null
      and not exists (select 1 from ad_group g where g.account_id = ${accountId} and g.ext_id = s.ad_group_ext)
    group by s.ad_group_ext`;
  await tx`
    insert into ad_group (account_id, campaign_id, name)
    select ${accountId}, m.campaign_id, s.ad_group
    from staged_target s join staged_campaign m using (tno)
    where s.ad_group_ext is null
      and not exists (select 1 from ad_group g where g.account_id = ${accountId}
        and g.campaign_id = m.campaign_id and g.name = s.ad_group)
    group by m.campaign_id, s.ad_group`;
  await tx`
    insert into staged_ad_group
    select s.tno, g.ad_group_id
    from staged_target s join ad_group g on g.account_id = ${accountId} and g.ext_id = s.ad_group_ext
    union all
    select s.tno, g.ad_group_id
    from staged_target s join staged_campaign m using (tno) join (
      select distinct on (campaign_id, name) campaign_id, name, ad_group_id from ad_group
      where account_id = ${accountId} order by campaign_id, name, ext_id nulls last, ad_group_id) g
      on g.campaign_id = m.campaign_id and g.name = s.ad_group
    where s.ad_group_ext is null`;
  await tx`analyze staged_ad_group`;
  await tx`
    insert into target (account_id, ad_group_id, ext_id, kind, match_type, expression)
    select ${accountId}, min(m.ad_group_id), s.target_ext, min(s.target_kind), min(s.match_type), min(s.target)
    from staged_target s join staged_ad_group m using (tno)
    where s.target_ext is not null
      and not exists (select 1 from target t where t.account_id = ${accountId} and t.ext_id = s.target_ext)
    group by s.target_ext`;
  await tx`
    insert into target (account_id, ad_group_id, kind, match_type, expression)
    select ${accountId}, m.ad_group_id, s.target_kind, s.match_type, s.target
    from staged_target s join staged_ad_group m using (tno)
    where s.target_ext is null
      and not exists (select 1 from target t where t.account_id = ${accountId} and t.ad_group_id = m.ad_group_id
        and t.expression = s.target and t.kind = s.target_kind and t.match_type is not distinct from s.match_type)
    group by m.ad_group_id, s.target_kind, s.match_type, s.target`;
  await tx`
    insert into staged_id
    select s.tno, t.target_id
    from staged_target s join target t on t.account_id = ${accountId} and t.ext_id = s.target_ext
    union all
    select s.tno, t.target_id
    from staged_target s join staged_ad_group m using (tno) join (
      select distinct on (ad_group_id, expression, kind, coalesce(match_type, '')) ad_group_id, expression, kind,
        coalesce(match_type, '') as match_type, target_id
      from target where account_id = ${accountId}
      order by ad_group_id, expression, kind, coalesce(match_type, ''), ext_id nulls last, target_id) t
      on t.ad_group_id = m.ad_group_id and t.expression = s.target and t.kind = s.target_kind
        and t.match_type = coalesce(s.match_type, '')
    where s.target_ext is null`;
  const [found] = await tx<{ ids: string | null }[]>`
    select string_agg(target_id::text, ',' order by tno) as ids from staged_id`;
  await tx`truncate staged_target, staged_campaign, staged_ad_group, staged_id`;
  return idList(found?.ids);
}

/** Finds or makes the staged terms, in one look at those that are known; their ids in the order of their numbers. */
export async function mergeTerms(tx: Transaction, accountId: number): Promise<number[]> {
  // In the order of the index: it then grows page by page.
  const [found] = await tx<{ ids: string | null }[]>`
    with told as materialized (
      select s.sno, s.text, t.term_id as known,
        coalesce(t.term_id, nextval((select pg_get_serial_sequence('term', 'term_id')::regclass))) as term_id
      from staged_term s left join term t on t.account_id = ${accountId} and t.text = s.text
    ), made as (
      insert into term (account_id, term_id, text) overriding system value
      select ${accountId}, term_id, text from told where known is null order by text
    )
    select string_agg(term_id::text, ',' order by sno) as ids from told`;
  await tx`truncate staged_term`;
  return idList(found?.ids);
}

/** Makes room for days: what an earlier report said of them is gone. */
export async function clearDays(
  tx: Transaction,
  accountId: number,
  fact: Fact,
  days: string[],
): Promise<void> {
  const kind = fact === 'term_day' ? 'terms-daily' : 'targets-daily';
  const told = await tx<{ day: string }[]>`
    select day from report_day where account_id = ${accountId} and kind = ${kind} and day = any(${days}::date[])`;
  // Looking through a month for days that nobody told takes as long as for those that somebody did.
  if (told.length === 0) return;
  const list = told.map(({ day }) => day);
  await tx`delete from ${tx(fact)} where account_id = ${accountId} and day = any(${list}::date[])`;
  await tx`
    delete from day_block where account_id = ${accountId} and fact = ${fact} and day = any(${list}::date[])`;
}

/** Rows of one day, target and term become one row of their sums. Files that are cut finer than that hold such rows. */
export async function foldRepeated(
  tx: Transaction,
  accountId: number,
  fact: Fact,
  days: string[],
): Promise<void> {
  const term = fact === 'term_day' ? tx`, term_id` : tx``;
  const here = tx`account_id = ${accountId} and day between ${days[0]!} and ${days[days.length - 1]!}`;
  const [repeated] = await tx`
    select 1 from ${tx(fact)} where ${here} group by day, target_id ${term} having count(*) > 1 limit 1`;
  if (!repeated) return;
  await tx`
    create temporary table folded on commit drop as
    select account_id, day, target_id ${term}, sum(impressions)::int as impressions,
      sum(clicks)::int as clicks, sum(spend)::bigint as spend, sum(orders)::int as orders, sum(units)::int as units,
      sum(sales)::bigint as sales
    from ${tx(fact)} where ${here} and day = any(${days}::date[])
    group by account_id, day, target_id ${term}`;
  await tx`delete from ${tx(fact)} where account_id = ${accountId} and day = any(${days}::date[])`;
  await tx`insert into ${tx(fact)} select * from folded`;
}
