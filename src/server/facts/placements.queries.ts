import type { Day, Window } from '../../core/metrics/days.ts';
import type { DayWeight } from '../../core/metrics/weights.ts';
import type { PlacementFigures } from '../../core/placements/findings.ts';
import type { Database } from '../db/connection.ts';

interface FiguresRow {
  campaign_id: string;
  placement: string;
  n: number;
  y: number;
  seen_clicks: number;
  seen_orders: number;
  impressions: number;
  clicks: number;
  spend: number;
  orders: number;
  units: number;
  sales: number;
  present_clicks: number;
  present_spend: number;
  present_days: number;
}

/**
 * What campaigns had in each placement: evidence by the weights of its days, sums over the window, and of those what
 * came after the modifiers were last changed (all of them where nothing has come since). By campaign id.
 *
 * @param known Share of a day's orders that counts as known.
 */
export async function placementFigures(
  sql: Database,
  accountId: number,
  window: Window,
  weights: readonly DayWeight[],
  changedOn: ReadonlyMap<string, string>,
  known: (day: Day) => number = () => 1,
): Promise<Map<string, PlacementFigures[]>> {
  const rows = await sql<FiguresRow[]>`
    with changed as (
      select * from unnest(${[...changedOn.keys()]}::bigint[], ${[...changedOn.values()]}::date[]) c (campaign_id, day)),
    weight as (
      select * from unnest(${weights.map(({ day }) => day)}::date[], ${weights.map(({ n }) => n)}::float8[],
        ${weights.map(({ y }) => y)}::float8[], ${weights.map(({ day }) => known(day))}::float8[]) w (day, n, y, known)),
    since as (
      select campaign_id, greatest(${window.from}::date, day + 1) as first from changed where day < ${window.to}::date)
    select d.campaign_id::text, d.placement, sum(d.clicks * w.n)::float8 as n,
      sum(d.orders * w.y * w.known)::float8 as y, sum(d.clicks)::float8 as seen_clicks,
      sum(d.orders * w.known)::float8 as seen_orders,
      ${insideSums(sql, window)},
      coalesce(sum(d.clicks) filter (where d.day >= ${first(sql, window)} and d.day <= ${window.to}), 0)::float8 as present_clicks,
      coalesce(sum(d.spend) filter (where d.day >= ${first(sql, window)} and d.day <= ${window.to}), 0)::float8 as present_spend,
      ${window.to}::date - ${first(sql, window)} + 1 as present_days
    from placement_day d join weight w on w.day = d.day left join since s on s.campaign_id = d.campaign_id
    where d.account_id = ${accountId} and d.day between ${weights[0]!.day} and ${weights[weights.length - 1]!.day}
    group by d.campaign_id, d.placement, s.first`;
  const found = new Map<string, PlacementFigures[]>();
  for (const row of rows) {
    const { impressions, clicks, spend, orders, units, sales } = row;
    const own = found.get(row.campaign_id) ?? [];
    own.push({
      placement: row.placement,
      n: row.n,
      y: row.y,
      seenClicks: row.seen_clicks,
      seenOrders: row.seen_orders,
      sums: { impressions, clicks, spend, orders, units, sales },
      present: { clicks: row.present_clicks, spend: row.present_spend, days: row.present_days },
    });
    found.set(row.campaign_id, own);
  }
  return found;
}

/** The first day of the window at the present modifiers. */
const first = (sql: Database, { from }: Window) => sql`coalesce(s.first, ${from}::date)`;

const insideSums = (sql: Database, { from, to }: Window) => {
  const inside = (name: string, part = sql`1`) =>
    sql`coalesce(sum(${sql('d')}.${sql(name)} * ${part}) filter (where d.day between ${from} and ${to}), 0)::float8 as ${sql(name)}`;
  const known = sql`w.known`;
  return sql`${inside('impressions')}, ${inside('clicks')}, ${inside('spend')}, ${inside('orders', known)},
    ${inside('units', known)}, ${inside('sales', known)}`;
};

/** The last day on which one of its modifiers was changed, by campaign id: by a sheet, or elsewhere. */
export async function modifiersChanged(sql: Database, accountId: number): Promise<Map<string, string>> {
  const rows = await sql<{ campaign_id: string; day: string }[]>`
    select campaign_id, max(day)::text as day from (
      select l.object_id as campaign_id, s.sent_on as day from line l join sheet s using (account_id, sheet_id)
      where l.account_id = ${accountId} and l.entity = 'placement_modifier' and l.state = 'applied'
        and s.sent_on is not null
      union all
      select object_id::text, day from outside_change
      where account_id = ${accountId} and entity = 'placement_modifier') c
    group by campaign_id`;
  return new Map(rows.map(({ campaign_id, day }) => [campaign_id, day]));
}
