import type { SeasonDay } from '../../answers/account.ts';
import { lineFields, type FieldEntity } from '../../core/changes/fields.ts';
import type {
  AdGroupObject,
  BudgetGroupObject,
  CampaignObject,
  NegativeObject,
  PlacementObject,
  TargetObject,
} from '../../core/account/store.ts';
import type { Window } from '../../core/metrics/days.ts';
import type { Database } from '../db/connection.ts';
import { betweenValues, packedRows, type Fragment } from '../db/packed.ts';
import type { DayWeight } from '../../core/metrics/weights.ts';
import type { Time } from '../../core/explore/tabulate.ts';

/** The account's objects and sums for its tables, by the hundred thousand. Pointers are ids here, places later. */

/** The values of all fields of an entity, by the column that keeps them. */
const fieldValues = (sql: Database, entity: FieldEntity, alias: string) =>
  sql`jsonb_build_object(${lineFields
    .filter((field) => field.entity === entity)
    .map(
      ({ column, kind }, i) =>
        sql`${i === 0 ? sql`` : sql`, `}${column}::text, ${sql(`${alias}.${column}`)}${kind === 'rule' ? sql`::text` : sql``}`,
    )})`;

export async function budgetGroupRows(sql: Database, accountId: number): Promise<BudgetGroupObject[]> {
  return sql<BudgetGroupObject[]>`
    select coalesce(b.ext_id, c.budget_group) as id, coalesce(b.name, c.budget_group) as name,
      b.daily_budget as "dailyBudget"
    from (select distinct budget_group from campaign
      where account_id = ${accountId} and budget_group is not null) c
    full join (select * from budget_group where account_id = ${accountId}) b on b.ext_id = c.budget_group
    order by 2`;
}

export async function campaignRows(sql: Database, accountId: number): Promise<CampaignObject[]> {
  return sql<CampaignObject[]>`
    select campaign_id::text as id, name, kind, status, strategy, budget_group as "budgetGroup",
      end_date as "endDate", ${fieldValues(sql, 'campaign', 'c')} as fields
    from campaign c where account_id = ${accountId} order by campaign_id`;
}

export async function adGroupRows(
  sql: Database,
  accountId: number,
): Promise<(Omit<AdGroupObject, 'campaign'> & { campaignId: string })[]> {
  return sql`
    select g.ad_group_id::text as id, g.campaign_id::text as "campaignId", g.name, g.status,
      (select min(p.sku) from product_ad p where p.account_id = g.account_id and p.ad_group_id = g.ad_group_id
        and p.status = 'enabled') as sku,
      ${fieldValues(sql, 'ad_group', 'g')} as fields
    from ad_group g where g.account_id = ${accountId} order by g.ad_group_id`;
}

export async function placementRows(
  sql: Database,
  accountId: number,
): Promise<(Omit<PlacementObject, 'campaign'> & { campaignId: string })[]> {
  return sql`
    select campaign_id::text as "campaignId", placement, max(modifier) as modifier from (
      select campaign_id, placement, modifier from placement_modifier where account_id = ${accountId}
      union all
      select distinct campaign_id, placement, null::float8 from placement_day where account_id = ${accountId}
      union all
      select distinct campaign_id, placement, null::float8 from summary
      where account_id = ${accountId} and kind = 'placements-daily') p
    group by campaign_id, placement order by campaign_id, placement`;
}

export async function negativeRows(
  sql: Database,
  accountId: number,
): Promise<
  (Omit<NegativeObject, 'campaign' | 'adGroup'> & { campaignId: string; adGroupId: string | null })[]
> {
  return sql`
    select negative_id::text as id, campaign_id::text as "campaignId", ad_group_id::text as "adGroupId",
      match_type as "matchType", expression, status
    from negative where account_id = ${accountId} order by negative_id`;
}

const orNull = (text: string | undefined): string | null => (text === '' || text === undefined ? null : text);

/**
 * Every target there ever was, by age, with its last change of bid; the days on which it was seen are noted later.
 *
 * @param adGroupAt The place of an ad group by its id.
 */
export async function targetObjects(
  sql: Database,
  accountId: number,
  adGroupAt: ReadonlyMap<string, number>,
): Promise<TargetObject[]> {
  const list: TargetObject[] = [];
  const common = sql`
    with before as (
      select distinct on (b.target_id) b.target_id, b.bid from target_bid b
      join target t on t.account_id = b.account_id and t.target_id = b.target_id
      where b.account_id = ${accountId} and b.day < t.bid_changed_on
      order by b.target_id, b.day desc)`;
  const rows = sql`
    select concat_ws(${betweenValues}, t.target_id, t.ad_group_id, t.kind, coalesce(t.match_type, ''), t.expression,
      coalesce(t.bid::text, ''), t.status, coalesce(t.bid_changed_on::text, ''), coalesce(b.bid::text, '')) as row
    from target t left join before b using (target_id)
    where t.account_id = ${accountId}`;
  await packedRows(sql, common, rows, (row) => {
    const [bid, before] = [orNull(row[5]), orNull(row[8])];
    list.push({
      id: row[0]!,
      adGroup: adGroupAt.get(row[1]!)!,
      kind: row[2]!,
      matchType: orNull(row[3]),
      expression: row[4]!,
      bid: bid === null ? null : Number(bid),
      status: row[6]!,
      changedOn: orNull(row[7]),
      bidBefore: before === null ? null : Number(before),
      firstSeen: null,
      lastSeen: null,
    });
  });
  return list.sort((a, b) => Number(a.id) - Number(b.id));
}

/** Ids and texts of all terms, side by side; some thousand to one value on the wire (see `packedRows`). */
export async function termTexts(
  sql: Database,
  accountId: number,
): Promise<{ termIds: number[]; texts: string[] }> {
  const pieces = await sql.begin(async (tx) => {
    await tx`set local work_mem = '256MB'`;
    await tx`set local jit = off`;
    return tx<{ ids: string; texts: string }[]>`
      select string_agg(term_id::text, ',') as ids, string_agg(text, ${betweenValues}) as texts
      from term where account_id = ${accountId} group by term_id / 4096`;
  });
  const termIds: number[] = [];
  const texts: string[] = [];
  for (const piece of pieces) {
    for (const id of piece.ids.split(',')) termIds.push(Number(id));
    for (const text of piece.texts.split(betweenValues)) texts.push(text);
  }
  return { termIds, texts };
}

/** Facts by the object they belong to. */
export type SumsOf = 'targets' | 'pairs' | 'placements';

/** One row of sums: the ids it belongs to, then impressions, clicks, spend, orders, units, sales, and more. */
type OnSums = (ids: string[], figures: number[]) => void;

/** Sums of placements over a window. */
export async function placementSums(
  sql: Database,
  accountId: number,
  window: Window,
  onSums: OnSums,
): Promise<void> {
  const rows = sql`
    select concat_ws(${betweenValues}, campaign_id, placement, sum(impressions), sum(clicks), sum(spend), sum(orders),
      sum(units), sum(sales)) as row
    from placement_day
    where account_id = ${accountId} and day between ${window.from} and ${window.to}
    group by campaign_id, placement`;
  await packedRows(sql, sql``, rows, (row) => onSums(row.slice(0, 2), row.slice(2).map(Number)));
}

/** Evidence of placements: weighted clicks and orders, after the sums of the days of evidence. */
export async function placementEvidence(
  sql: Database,
  accountId: number,
  weights: DayWeight[],
  onSums: OnSums,
): Promise<void> {
  const rows = sql`
    select concat_ws(${betweenValues}, campaign_id, placement, sum(impressions), sum(clicks), sum(spend), sum(orders),
      sum(units), sum(sales), sum(clicks * w.n), sum(orders * w.y)) as row
    from placement_day d join w using (day)
    where account_id = ${accountId} and day between ${weights[0]!.day} and ${weights[weights.length - 1]!.day}
    group by campaign_id, placement`;
  const common = sql`
    with w as not materialized (
      select * from jsonb_to_recordset(${sql.json(weights as never)}) as w (day date, n float8, y float8))`;
  await packedRows(sql, common, rows, (row) => onSums(row.slice(0, 2), row.slice(2).map(Number)));
}

export async function totalSales(
  sql: Database,
  accountId: number,
  window: Window,
): Promise<{ sku: string; total_sales: number }[]> {
  return sql`
    select sku, sum(total_sales)::bigint as total_sales from product_day
    where account_id = ${accountId} and day between ${window.from} and ${window.to} group by sku`;
}

/** Sums by day of some placements of campaigns: ids of campaigns, and the names of placements beside them. */
export async function placementDays(
  sql: Database,
  accountId: number,
  span: Window,
  campaigns: string[],
  placements: string[],
): Promise<SeasonDay[]> {
  return sql<SeasonDay[]>`
    select d.day, sum(d.impressions) as impressions, sum(d.clicks) as clicks, sum(d.spend)::bigint as spend,
      sum(d.orders) as orders, sum(d.units) as units, sum(d.sales)::bigint as sales
    from placement_day d join unnest(${campaigns}::bigint[], ${placements}::text[]) as k (id, placement)
      on d.campaign_id = k.id and d.placement = k.placement
    where d.account_id = ${accountId} and d.day between ${span.from} and ${span.to}
    group by d.day order by d.day`;
}

const factOfCut = { targets: 'target_day', placements: 'placement_day', campaigns: 'campaign_hour' } as const;

/** Sums by object and by time: weekday (1 Monday to 7 Sunday), month (2026-11), hour (0 to 23). */
export async function dimensionSums(
  sql: Database,
  accountId: number,
  of: 'targets' | 'placements' | 'campaigns',
  window: Window,
  times: readonly Time[],
  onSums: (ids: string[], times: Partial<Record<Time, string>>, figures: number[]) => void,
): Promise<void> {
  const ids =
    of === 'targets' ? sql`target_id` : of === 'placements' ? sql`campaign_id, placement` : sql`campaign_id`;
  const idCount = of === 'placements' ? 2 : 1;
  const bucket: Record<Time, Fragment> = {
    weekday: sql`to_char(day, 'ID')`,
    month: sql`to_char(day, 'YYYY-MM')`,
    hour: sql`hour`,
  };
  const keys = times.reduce((list, time) => sql`${list}, ${bucket[time]}`, ids);
  const rows = sql`
    select concat_ws(${betweenValues}, ${keys}, sum(impressions), sum(clicks), sum(spend), sum(orders), sum(units),
      sum(sales)) as row
    from ${sql(factOfCut[of])}
    where account_id = ${accountId} and day between ${window.from} and ${window.to}
    group by ${keys}`;
  await packedRows(sql, sql``, rows, (row) =>
    onSums(
      row.slice(0, idCount),
      Object.fromEntries(times.map((time, i) => [time, row[idCount + i]!])),
      row.slice(idCount + times.length).map(Number),
    ),
  );
}

/** Bids of targets as they changed: "2026-10-02 0.45, 2026-11-01 0.40" by id. */
export async function bidHistories(
  sql: Database,
  accountId: number,
  ids: string[],
): Promise<Map<string, string>> {
  const rows = await sql<{ id: string; steps: string }[]>`
    select target_id::text as id,
      string_agg(day || ' ' || round(bid / 1e6, 2), ', ' order by day) as steps
    from target_bid where account_id = ${accountId} and target_id = any(${ids}::bigint[]) group by target_id`;
  return new Map(rows.map(({ id, steps }) => [id, steps]));
}

/** Days of one term of one target; `key` is "target:term". */
export async function pairSeason(
  sql: Database,
  accountId: number,
  key: string,
  from: string,
): Promise<SeasonDay[]> {
  const [targetId = '', termId = ''] = key.split(':');
  return sql<SeasonDay[]>`
    select day, impressions, clicks, spend, orders, units, sales from term_day
    where account_id = ${accountId} and day >= ${from} and target_id = ${targetId}::bigint
      and term_id = ${termId}::bigint
    order by day`;
}
