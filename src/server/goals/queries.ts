import type { Day } from '../../core/metrics/days.ts';
import type { GoalPlace, PlanRow } from '../../answers/goals.ts';
import type { Stance } from '../../core/bids/guards.ts';
import type { Ladder } from '../../core/bids/ladder.ts';
import type { Method } from '../../core/bids/methods.ts';
import type { GoalScope, GuardSettings, Objective } from '../../core/goals/goals.ts';
import type { SteeringOutcome } from '../../core/goals/theta.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Campaigns and ad groups whose names hold a text, those that begin with it first; of these numbers where they are named. */
export async function placesLike(
  sql: Database,
  accountId: number,
  text: string,
  most: number,
): Promise<GoalPlace[]> {
  const like = `%${text.replace(/[\\%_]/g, '\\$&')}%`;
  return sql<GoalPlace[]>`
    select * from (
      select 'campaign' as scope, c.campaign_id::text as key, c.name, c.campaign_id::text as "campaignId",
        c.name as campaign, (select min(a.sku) from product_ad a join ad_group g using (account_id, ad_group_id)
          where g.account_id = c.account_id and g.campaign_id = c.campaign_id) as sku
      from campaign c where c.account_id = ${accountId} and c.status <> 'archived' and c.name ilike ${like}
      union all
      select 'ad_group', g.ad_group_id::text, g.name, g.campaign_id::text, c.name,
        (select min(a.sku) from product_ad a where a.account_id = g.account_id and a.ad_group_id = g.ad_group_id)
      from ad_group g join campaign c using (account_id, campaign_id)
      where g.account_id = ${accountId} and g.status <> 'archived' and c.status <> 'archived' and g.name ilike ${like}
    ) p order by position(lower(${text}) in lower(name)), name, scope limit ${most}`;
}

/** Campaigns and ad groups by their numbers. */
export async function placesOf(
  sql: Database | Transaction,
  accountId: number,
  campaignIds: readonly string[],
  adGroupIds: readonly string[],
): Promise<GoalPlace[]> {
  return sql<GoalPlace[]>`
    select 'campaign' as scope, c.campaign_id::text as key, c.name, c.campaign_id::text as "campaignId",
      c.name as campaign, (select min(a.sku) from product_ad a join ad_group g using (account_id, ad_group_id)
        where g.account_id = c.account_id and g.campaign_id = c.campaign_id) as sku
    from campaign c where c.account_id = ${accountId} and c.campaign_id = any(${[...campaignIds]}::bigint[])
    union all
    select 'ad_group', g.ad_group_id::text, g.name, g.campaign_id::text, c.name,
      (select min(a.sku) from product_ad a where a.account_id = g.account_id and a.ad_group_id = g.ad_group_id)
    from ad_group g join campaign c using (account_id, campaign_id)
    where g.account_id = ${accountId} and g.ad_group_id = any(${[...adGroupIds]}::bigint[])`;
}

/** Every campaign and ad group that is not archived, as a file may name them. */
export async function namedPlaces(
  sql: Database | Transaction,
  accountId: number,
): Promise<(GoalPlace & { extId: string | null })[]> {
  return sql<(GoalPlace & { extId: string | null })[]>`
    with ads as (select ad_group_id, min(sku) as sku from product_ad where account_id = ${accountId} group by 1),
    of_campaign as (
      select g.campaign_id, min(a.sku) as sku from ad_group g join ads a using (ad_group_id)
      where g.account_id = ${accountId} group by 1)
    select 'campaign' as scope, c.campaign_id::text as key, c.ext_id as "extId", c.name,
      c.campaign_id::text as "campaignId", c.name as campaign, o.sku
    from campaign c left join of_campaign o using (campaign_id) where c.account_id = ${accountId} and c.status <> 'archived'
    union all
    select 'ad_group', g.ad_group_id::text, g.ext_id, g.name, g.campaign_id::text, c.name, a.sku
    from ad_group g join campaign c using (account_id, campaign_id) left join ads a using (ad_group_id)
    where g.account_id = ${accountId} and g.status <> 'archived' and c.status <> 'archived'`;
}

/** Sets all that goals say; `null` of a setting leaves it to the wider scope. */
export async function upsertGoals(
  tx: Transaction,
  accountId: number,
  goals: readonly GoalRow[],
): Promise<void> {
  await tx`
    insert into goal (account_id, scope, key, objective, target_acos, target_margin, bid_floor, bid_ceiling, stance,
      method, ladder, guards, above_one)
    select ${accountId}::bigint, g.* from jsonb_to_recordset(${tx.json(goals as never)}) as g (
      scope text, key text, objective text, target_acos float8, target_margin float8, bid_floor bigint,
      bid_ceiling bigint, stance text, method text, ladder jsonb, guards jsonb, above_one boolean)
    on conflict (account_id, scope, key) do update set objective = excluded.objective,
      target_acos = excluded.target_acos, target_margin = excluded.target_margin, bid_floor = excluded.bid_floor,
      bid_ceiling = excluded.bid_ceiling, stance = excluded.stance, method = excluded.method,
      ladder = excluded.ladder, guards = excluded.guards, above_one = excluded.above_one`;
}

export async function deleteGoal(
  sql: Database | Transaction,
  accountId: number,
  scope: string,
  key: string,
): Promise<boolean> {
  const rows = await sql`
    delete from goal where account_id = ${accountId} and scope = ${scope} and key = ${key} returning 1`;
  return rows.length > 0;
}

/** Null: the next wider scope's. */
export interface GoalRow {
  scope: GoalScope;
  /** '' for the account, a SKU, or the id of a campaign or an ad group. */
  key: string;
  objective: Objective | null;
  /** The account always has one. */
  target_acos: number | null;
  target_margin: number | null;
  bid_floor: number | null;
  bid_ceiling: number | null;
  stance: Stance | null;
  method: Method | null;
  ladder: Ladder | null;
  guards: GuardSettings | null;
  above_one: boolean;
}

export async function goalRows(sql: Database | Transaction, accountId: number): Promise<GoalRow[]> {
  return sql<GoalRow[]>`
    select scope, key, objective, target_acos, target_margin, bid_floor, bid_ceiling, stance, method, ladder, guards,
      above_one
    from goal where account_id = ${accountId}
    order by scope, key`;
}

export interface ThetaRow {
  scope: GoalScope;
  key: string;
  day: string;
  theta: number;
  target_acos: number;
  reason: string;
  /** Expected ACOS and theta in force of the days since the round before; null where nothing was told. */
  expected_acos: number | null;
  in_force: number | null;
  outcome: SteeringOutcome | 'start';
}

/** The newest theta of every scope. */
export async function thetaRows(
  sql: Database,
  accountId: number,
  until: Day | null = null,
): Promise<ThetaRow[]> {
  return sql<ThetaRow[]>`
    select distinct on (scope, key) scope, key, day, theta, target_acos, reason, expected_acos, in_force, outcome from theta
    where account_id = ${accountId} and (${until}::date is null or day <= ${until}) order by scope, key, day desc`;
}

export async function insertThetas(
  sql: Database,
  accountId: number,
  rows: readonly ThetaRow[],
): Promise<void> {
  await sql`
    insert into theta (account_id, scope, key, day, theta, target_acos, reason, expected_acos, in_force, outcome)
    select ${accountId}::bigint, t.* from jsonb_to_recordset(${sql.json(rows as never)}) as t (
      scope text, key text, day date, theta float8, target_acos float8, reason text, expected_acos float8,
      in_force float8, outcome text)
    on conflict (account_id, scope, key, day) do nothing`;
}

/** Costs of a product by hand; a fetch or a file that tells them anew replaces them. Null: unknown. */
export interface CostsRow {
  unit_cost: number | null;
  fee_rate: number | null;
  fee_fixed: number | null;
  shipping: number | null;
  refund_rate: number | null;
}

export async function setCosts(
  tx: Transaction,
  accountId: number,
  sku: string,
  costs: CostsRow,
): Promise<boolean> {
  const rows = await tx`
    update product set ${tx({ ...costs })} where account_id = ${accountId} and sku = ${sku} returning 1`;
  return rows.length > 0;
}

/** CPC by product over some days, micros. */
export async function cpcByProduct(
  sql: Database,
  accountId: number,
  from: string,
  to: string,
): Promise<Map<string, number>> {
  const rows = await sql<{ sku: string; cpc: number }[]>`
    with ads as (select ad_group_id, min(sku) as sku from product_ad where account_id = ${accountId} group by 1)
    select a.sku, sum(d.spend)::float8 / sum(d.clicks) as cpc
    from target_day d join target t using (account_id, target_id) join ads a using (ad_group_id)
    where d.account_id = ${accountId} and d.day between ${from} and ${to}
    group by a.sku having sum(d.clicks) > 0`;
  return new Map(rows.map(({ sku, cpc }) => [sku, cpc]));
}

export async function planRows(sql: Database, accountId: number): Promise<PlanRow[]> {
  return sql<PlanRow[]>`
    select month, sku, spend, sales, revenue from plan where account_id = ${accountId} order by month, sku`;
}

/** Keeps a month's plan; one in which nothing is planned goes. */
export async function putPlan(tx: Transaction, accountId: number, row: PlanRow): Promise<void> {
  const { month, sku, spend, sales, revenue } = row;
  if (spend === null && sales === null && revenue === null) {
    await tx`delete from plan where account_id = ${accountId} and month = ${month} and sku = ${sku}`;
    return;
  }
  await tx`
    insert into plan (account_id, month, sku, spend, sales, revenue)
    values (${accountId}, ${month}, ${sku}, ${spend}, ${sales}, ${revenue})
    on conflict (account_id, month, sku) do update set spend = excluded.spend, sales = excluded.sales,
      revenue = excluded.revenue`;
}

/** Spend, ad sales and total revenue by month, of the account and of each product (sku empty: of all). */
export async function monthsDone(
  sql: Database,
  accountId: number,
  from: string,
  to: string,
): Promise<{ month: string; sku: string; spend: number; sales: number; revenue: number | null }[]> {
  return sql<{ month: string; sku: string; spend: number; sales: number; revenue: number | null }[]>`
    with ads as (select ad_group_id, min(sku) as sku from product_ad where account_id = ${accountId} group by 1),
    a as (
      select date_trunc('month', d.day)::date as month, coalesce(p.sku, '?') as sku, sum(d.spend) as spend,
        sum(d.sales) as sales
      from target_day d join target t using (account_id, target_id) left join ads p using (ad_group_id)
      where d.account_id = ${accountId} and d.day between ${from} and ${to} group by 1, 2),
    r as (
      select date_trunc('month', day)::date as month, sku, sum(total_sales) as revenue from product_day
      where account_id = ${accountId} and day between ${from} and ${to} group by 1, 2),
    both_of as (
      select month, sku, coalesce(a.spend, 0) as spend, coalesce(a.sales, 0) as sales, r.revenue
      from a full join r using (month, sku))
    select month, coalesce(sku, '') as sku, sum(spend)::bigint as spend, sum(sales)::bigint as sales,
      sum(revenue)::bigint as revenue
    from both_of group by grouping sets ((month), (month, sku)) order by 1, 2`;
}

/** Goals that a loaded file changed; undefined: there is no such import. */
export async function loadedGoals(
  tx: Transaction,
  accountId: number,
  importId: number,
): Promise<
  { changed: { before: GoalRow | null; after: GoalRow }[] | null; isTakenBack: boolean } | undefined
> {
  const [row] = await tx<
    { changed: { before: GoalRow | null; after: GoalRow }[] | null; isTakenBack: boolean }[]
  >`
    select changed, taken_back_at is not null as "isTakenBack" from import
    where account_id = ${accountId} and import_id = ${importId}`;
  return row;
}

export async function noteTakenBack(tx: Transaction, accountId: number, importId: number): Promise<void> {
  await tx`update import set taken_back_at = now() where account_id = ${accountId} and import_id = ${importId}`;
}

export async function deleteGoals(
  tx: Transaction,
  accountId: number,
  goals: readonly Pick<GoalRow, 'scope' | 'key'>[],
): Promise<void> {
  await tx`
    delete from goal using unnest(${goals.map(({ scope }) => scope)}::text[], ${goals.map(({ key }) => key)}::text[])
      as w (scope, key)
    where account_id = ${accountId} and goal.scope = w.scope and goal.key = w.key`;
}
