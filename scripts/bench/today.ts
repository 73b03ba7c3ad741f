import postgres from 'postgres';
import { splitter, type SplitMember } from '../../src/core/budgets/split.ts';
import { micros } from '../../src/core/metrics/money.ts';
import type { Running } from '../lib/processes.ts';
import type { Measure } from './measure.ts';
import { get, placementDays } from './placements.ts';

const campaigns = 2000;
const days = 30;
const span = 'from=2026-10-18&to=2026-11-16';

/** A total split over 2,000 campaigns by 30 days each, and one of them dragged. */
export function splitOfMany(): Measure[] {
  let state = 9;
  const unit = () => (state = (state * 16807) % 2147483647) / 2147483647;
  const members = Array.from({ length: campaigns }, (_, at): SplitMember => ({
    campaignId: String(at),
    full: Array.from({ length: days }, () => micros(1 + 40 * unit() * unit())),
    now: micros(8),
    roas: 1 + 5 * unit(),
    caught: 0.6,
    least: micros(2),
    most: null,
    isOver: false,
    isResearch: at % 4 === 0,
  }));
  const rules = { total: micros(12_000), researchShare: 0.25, researchCap: null };
  const all = members.flatMap(({ full, roas }) => full.map((spend) => spend * roas));
  const sorting = time(() => all.slice().sort((a, b) => b - a));
  const reference = `sorting their ${all.length} days (${(sorting * 1000).toFixed(0)} ms)`;
  const whole = time(() => splitter(members, rules)());
  const split = splitter(members, rules);
  const drag = time(() => split(new Map([['7', micros(20)]])));
  return [
    {
      name: 'split-2000-campaigns',
      value: whole,
      unit: 's',
      reference,
      ratio: whole / sorting,
      aim: 'under 1 s',
    },
    {
      name: 'split-2000-drag',
      value: drag * 1000,
      unit: 'ms',
      reference,
      ratio: drag / sorting,
      aim: 'under 50 ms',
    },
  ];
}

/** Seconds of the middle one of nine runs. */
function time(work: () => unknown): number {
  const runs = Array.from({ length: 9 }, () => {
    const began = performance.now();
    work();
    return (performance.now() - began) / 1000;
  });
  return runs.sort((a, b) => a - b)[4]!;
}

/** Today and budgets on the account of 200,000 targets: asked first, and again after a change made all answers old. */
export async function todayOfLarge(app: Running & { databaseUrl: string }): Promise<Measure[]> {
  const sql = postgres(app.databaseUrl, { max: 1, onnotice: () => undefined });
  await placementDays(sql);
  const start = performance.now();
  await sql`select day, sum(clicks), sum(spend), sum(orders), sum(sales) from target_day where account_id = 1 group by 1`;
  const sums = (performance.now() - start) / 1000;
  const reference = `Postgres's sums by day of all targets (${sums.toFixed(2)} s)`;
  const found: Measure[] = [];
  const measure = (name: string, seconds: number, aim: string) =>
    found.push({ name, value: seconds, unit: 's', reference, ratio: seconds / sums, aim });
  const today = `${app.url}/api/1/today?${span}`;
  measure('today-first', (await get(today)).seconds, 'none named: its days are read once');
  // A kept answer would tell nothing: a goal that is set again makes all of them old, and leaves the figures.
  const renew = () => sql`update account set goals_version = goals_version + 1 where account_id = 1`;
  await renew();
  measure('today-again', (await get(today)).seconds, 'under 0.3 s');
  measure('today-kept', (await get(today)).seconds, 'under 0.3 s');
  const moved = `${app.url}/api/1/today/moved?figure=sales&by=campaign&${span}`;
  measure('today-moved-by-campaign', (await get(moved)).seconds, 'under 0.3 s');
  measure('today-verdicts', (await get(`${app.url}/api/1/today/verdicts?${span}`)).seconds, 'none named');
  await get(`${app.url}/api/1/goals/methods?${span}&offset=0&limit=1&sort=between&text=`);
  measure(
    'budgets-2000-campaigns',
    (await get(`${app.url}/api/1/spend/budgets?${span}`)).seconds,
    'none named',
  );
  await hoursOfCampaigns(sql);
  await renew();
  const hours = `${app.url}/api/1/spend/hours?${span}`;
  measure('hours-2000-campaigns', (await get(hours)).seconds, 'none named: four million hours are summed');
  await renew();
  measure('hours-2000-again', (await get(hours)).seconds, 'none named');
  await sql.end();
  return found;
}

/** Today and Organic on the demo account, its figures being in memory: windows that nobody asked for before. */
export async function todayOfDemo(url: string): Promise<Measure[]> {
  const medianOf = async (path: string): Promise<number> => {
    const times: number[] = [];
    for (const to of ['2026-11-17', '2026-11-11', '2026-11-10', '2026-11-09', '2026-11-08'])
      times.push((await get(`${url}/api/1/${path}?from=2026-10-18&to=${to}`)).seconds);
    return times.sort((a, b) => a - b)[2]!;
  };
  const season = await get(`${url}/api/1/season`);
  const reference = `the season's days (${(1000 * season.seconds).toFixed(1)} ms)`;
  const measure = (name: string, seconds: number, aim: string): Measure => ({
    name,
    value: 1000 * seconds,
    unit: 'ms',
    reference,
    ratio: seconds / season.seconds,
    aim,
  });
  return [
    measure('today-demo', await medianOf('today'), 'under 100 ms'),
    measure('organic-demo', await medianOf('organic'), 'none named'),
  ];
}

/** Twelve weeks of hours for every campaign: evenings sell better, Sundays less. */
async function hoursOfCampaigns(sql: postgres.Sql): Promise<void> {
  await sql`select setseed(0.5)`;
  await sql`select ensure_month('campaign_hour', 1, m::date) from generate_series('2026-08-01', '2026-11-01', interval '1 month') m`;
  await sql`insert into campaign_hour
    select 1, d::date, h, c, 60, n.clicks, n.clicks * 450000, n.orders, n.orders, n.orders * 25000000, 60
    from generate_series(1, ${campaigns}) c
    cross join generate_series('2026-08-25'::date, '2026-11-16'::date, '1 day') d
    cross join generate_series(0, 23) h
    cross join lateral (select (random() * 2 + 0 * c)::int as clicks) k
    cross join lateral (select k.clicks, (random() * k.clicks * case when extract(isodow from d) = 7 then 0.1 else 0.16 end
      + random() * 0.6)::int as orders) n`;
  await sql`analyze campaign_hour`;
}
