import type { Database } from '../db/connection.ts';
import type { Window } from '../../core/metrics/days.ts';
import type { Stance } from '../../core/bids/guards.ts';
import type { SteeringOutcome } from '../../core/bids/theta.ts';

/** Click-weighted mean of (1 + modifier) of each campaign in the window; 1 without placements. */
export async function modifiersOf(
  sql: Database,
  accountId: number,
  window: Window,
): Promise<{ campaign_id: number; modifier: number }[]> {
  return sql`
    select d.campaign_id, sum(d.clicks * (1 + coalesce(m.modifier, 0) / 100)) / sum(d.clicks) as modifier
    from placement_day d left join placement_modifier m on m.account_id = d.account_id
      and m.campaign_id = d.campaign_id and m.placement = d.placement
    where d.account_id = ${accountId} and d.day between ${window.from} and ${window.to}
    group by d.campaign_id having sum(d.clicks) > 0`;
}

export interface GoalRow {
  scope: 'account' | 'product' | 'campaign';
  key: string;
  target_acos: number;
  bid_floor: number | null;
  bid_ceiling: number | null;
  stance: Stance;
  above_one: boolean;
}

export async function goalRows(sql: Database, accountId: number): Promise<GoalRow[]> {
  return sql<GoalRow[]>`
    select scope, key, target_acos, bid_floor, bid_ceiling, stance, above_one from goal where account_id = ${accountId}
    order by scope, key`;
}

export interface ThetaRow {
  scope: string;
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
export async function thetaRows(sql: Database, accountId: number): Promise<ThetaRow[]> {
  return sql<ThetaRow[]>`
    select distinct on (scope, key) scope, key, day, theta, target_acos, reason, expected_acos, in_force, outcome from theta
    where account_id = ${accountId} order by scope, key, day desc`;
}

export async function insertTheta(sql: Database, accountId: number, row: ThetaRow): Promise<void> {
  await sql`
    insert into theta (account_id, scope, key, day, theta, target_acos, reason, expected_acos, in_force, outcome)
    values (${accountId}, ${row.scope}, ${row.key}, ${row.day}, ${row.theta}, ${row.target_acos}, ${row.reason},
      ${row.expected_acos}, ${row.in_force}, ${row.outcome})
    on conflict (account_id, scope, key, day) do nothing`;
}

export interface DaySum {
  day: string;
  impressions: number;
  clicks: number;
  spend: number;
  orders: number;
  units: number;
  sales: number;
}

/** Daily sums of the account, for the season strip. */
export async function seasonDays(sql: Database, accountId: number, from: string): Promise<DaySum[]> {
  const sums = sql`sum(impressions) as impressions, sum(clicks) as clicks, sum(spend)::bigint as spend,
    sum(orders) as orders, sum(units) as units, sum(sales)::bigint as sales`;
  // Days of which only search terms were told count by those: all that is known of them.
  return sql<DaySum[]>`
    select day, ${sums} from target_day where account_id = ${accountId} and day >= ${from} group by day
    union all
    select day, ${sums} from term_day
    where account_id = ${accountId} and day = any(array(
      select day from report_day where account_id = ${accountId} and kind = 'terms-daily' and day >= ${from}
      except select day from report_day where account_id = ${accountId} and kind = 'targets-daily'))
    group by day
    order by day`;
}

/** Daily sums of one term in some ad groups. */
export async function termSeason(
  sql: Database,
  accountId: number,
  adGroupIds: string[],
  term: string,
  from: string,
): Promise<DaySum[]> {
  return sql<DaySum[]>`
    select d.day, sum(d.impressions) as impressions, sum(d.clicks) as clicks, sum(d.spend)::bigint as spend,
      sum(d.orders) as orders, sum(d.units) as units, sum(d.sales)::bigint as sales
    from term_day d join target t on t.account_id = d.account_id and t.target_id = d.target_id
    where d.account_id = ${accountId} and d.day >= ${from} and t.ad_group_id = any(${adGroupIds}::bigint[])
      and d.term_id = (select term_id from term where account_id = ${accountId} and text = ${term})
    group by d.day order by d.day`;
}

export async function targetSeason(
  sql: Database,
  accountId: number,
  targetId: string,
  from: string,
): Promise<DaySum[]> {
  return sql<DaySum[]>`
    select day, impressions, clicks, spend, orders, units, sales from target_day
    where account_id = ${accountId} and day >= ${from} and target_id = ${targetId}::bigint order by day`;
}

export async function bidSteps(
  sql: Database,
  accountId: number,
  targetId: string,
): Promise<{ day: string; bid: number }[]> {
  return sql`
    select day, bid from target_bid where account_id = ${accountId} and target_id = ${targetId}::bigint order by day`;
}

/** Everything that bids on exactly this text anywhere in the account, with its sums. */
export async function elsewhere(
  sql: Database,
  accountId: number,
  term: string,
): Promise<
  {
    target_id: string;
    ad_group_id: string;
    ad_group: string;
    match_type: string | null;
    kind: string;
    bid: number | null;
    status: string;
  }[]
> {
  return sql`
    select t.target_id::text, t.ad_group_id::text, g.name as ad_group, t.match_type, t.kind, t.bid, t.status
    from target t join ad_group g using (account_id, ad_group_id)
    where t.account_id = ${accountId} and lower(t.expression) = lower(${term}) and t.status <> 'archived'
    order by t.status, t.target_id limit 20`;
}

export async function sentDays(
  sql: Database,
  accountId: number,
): Promise<{ day: string; sheets: number; lines: number }[]> {
  return sql`
    select s.sent_on as day, count(distinct s.sheet_id)::int as sheets, count(l.line_id)::int as lines
    from sheet s join line l on l.account_id = s.account_id and l.sheet_id = s.sheet_id and l.state = 'applied'
    where s.account_id = ${accountId} and s.state = 'sent' group by s.sent_on order by s.sent_on`;
}

export async function decisionsOf(
  sql: Database,
  accountId: number,
  today: string,
): Promise<{ finding_key: string; decision: 'skipped' | 'later'; until: string | null }[]> {
  return sql`
    select finding_key, decision, until from decision
    where account_id = ${accountId} and (until is null or until > ${today}::date)`;
}

export async function decide(
  sql: Database,
  accountId: number,
  keys: string[],
  decision: 'skipped' | 'later',
  until: string | null,
): Promise<void> {
  await sql`
    insert into decision (account_id, finding_key, decision, until, decided_at)
    select ${accountId}, key, ${decision}, ${until}::date, now() from unnest(${keys}::text[]) as k (key)
    on conflict (account_id, finding_key) do update
      set decision = excluded.decision, until = excluded.until, decided_at = excluded.decided_at`;
}

export async function undecide(sql: Database, accountId: number, keys: string[]): Promise<void> {
  await sql`delete from decision where account_id = ${accountId} and finding_key = any(${keys}::text[])`;
}
