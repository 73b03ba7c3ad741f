import { windowDays, type Day, type Window } from '../../core/metrics/days.ts';
import type { DayWeight } from '../../core/metrics/weights.ts';
import type { Sums } from '../../core/metrics/figures.ts';
import type { PlacementFigures } from '../../core/placements/findings.ts';
import type { SinceStrategy } from '../../core/placements/strategies.ts';
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
 * @param weights Of the days of evidence, the window's among them.
 * @param known Share of a day's orders that counts as known; all of them where it is left out.
 */
export async function placementFigures(
  sql: Database,
  accountId: number,
  window: Window,
  weights: readonly DayWeight[],
  changedOn: ReadonlyMap<string, string>,
  known?: (day: Day) => number,
): Promise<Map<string, PlacementFigures[]>> {
  // Weights are taken out of an array by day: joining days with them took longer than all sums together.
  const byDay = (of: (weight: DayWeight) => number) =>
    sql`(${weights.map(of)}::float8[])[d.day - ${weights[0]!.day}::date + 1]`;
  const told = known ? sql` * coalesce(${byDay(({ day }) => known(day))}, 1)` : sql``;
  const within = sql`filter (where d.day >= ${window.from} and d.day <= ${window.to})`;
  const inside = (name: string) => sql`coalesce(sum(d.${sql(name)}) ${within}, 0)::float8 as ${sql(name)}`;
  const toldInside = (name: string) =>
    sql`coalesce(sum(d.${sql(name)}${told}) ${within}, 0)::float8 as ${sql(name)}`;
  const evidence = { from: weights[0]!.day, to: weights[weights.length - 1]!.day };
  const isLonger = window.from < evidence.from;
  const seen = isLonger ? sql`filter (where d.day >= ${evidence.from})` : sql``;
  // One look at each day: evidence and window end on the same one.
  const rows = await sql<FiguresRow[]>`
    with changed as (
      select campaign_id, greatest(${window.from}::date, day + 1) as first
      from unnest(${[...changedOn.keys()]}::bigint[], ${[...changedOn.values()]}::date[]) c (campaign_id, day)
      where day < ${window.to}::date),
    present as (
      select d.campaign_id, d.placement, ${window.to}::date - c.first + 1 as days,
        coalesce(sum(d.clicks) filter (where d.day >= c.first), 0) as clicks,
        coalesce(sum(d.spend) filter (where d.day >= c.first), 0) as spend
      from placement_day d join changed c using (campaign_id)
      where d.account_id = ${accountId} and d.day between ${window.from} and ${window.to}
      group by d.campaign_id, d.placement, c.first),
    figures as (
      select d.campaign_id, d.placement, coalesce(sum(d.clicks * ${byDay(({ n }) => n)}), 0) as n,
        coalesce(sum(d.orders * ${byDay(({ day, y }) => y * (known?.(day) ?? 1))}), 0) as y,
        coalesce(sum(d.clicks) ${seen}, 0)::float8 as seen_clicks, coalesce(sum(d.orders${told}) ${seen}, 0)::float8 as seen_orders,
        ${inside('impressions')}, ${inside('clicks')}, ${inside('spend')},
        ${toldInside('orders')}, ${toldInside('units')}, ${toldInside('sales')}
      from placement_day d
      where d.account_id = ${accountId} and d.day between ${isLonger ? window.from : evidence.from} and ${evidence.to}
      group by d.campaign_id, d.placement)
    select f.campaign_id::text, f.placement, n, y, seen_clicks, seen_orders, impressions, f.clicks, f.spend, orders, units,
      sales, coalesce(p.clicks, f.clicks)::float8 as present_clicks, coalesce(p.spend, f.spend)::float8 as present_spend,
      coalesce(p.days, ${windowDays(window)})::int as present_days
    from figures f left join present p using (campaign_id, placement)`;
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

/**
 * What campaigns had in each placement since their strategies were changed, by campaign id: of those changed within the
 * window, from the day after on; of those changed since, nothing: all its days were under another one.
 */
export async function sinceStrategies(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  changedOn: ReadonlyMap<string, Day>,
): Promise<Map<string, SinceStrategy>> {
  const changed = [...changedOn].filter(([, day]) => day >= from);
  const found = new Map(changed.map(([id, day]) => [id, { day, sums: {} as Record<string, Sums> }]));
  if (changed.length === 0) return found;
  const rows = await sql<({ campaign_id: string; placement: string } & Sums)[]>`
    select d.campaign_id::text, d.placement, sum(d.impressions)::float8 as impressions, sum(d.clicks)::float8 as clicks,
      sum(d.spend)::float8 as spend, sum(d.orders)::float8 as orders, sum(d.units)::float8 as units,
      sum(d.sales)::float8 as sales
    from placement_day d
      join unnest(${changed.map(([id]) => id)}::bigint[], ${changed.map(([, day]) => day)}::date[]) c (campaign_id, changed)
        using (campaign_id)
    where d.account_id = ${accountId} and d.day > c.changed and d.day between ${from} and ${to}
    group by d.campaign_id, d.placement`;
  for (const { campaign_id: id, placement, ...sums } of rows) found.get(id)!.sums[placement] = sums;
  return found;
}

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
