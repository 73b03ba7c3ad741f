import type { OpenSheet } from '../src/answers/changes.ts';
import type { ForecastsAnswer } from '../src/answers/forecasts.ts';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import postgres from 'postgres';
import { demoScenario } from '../demo/scenario.ts';
import {
  callApi,
  demoAccount,
  startApplication,
  startQuayside,
  waitForJob,
} from '../scripts/lib/processes.ts';
import { quantileOf } from '../src/core/evidence/gamma.ts';
import { windowDays, type Window } from '../src/core/metrics/days.ts';
import { units } from '../src/core/metrics/money.ts';
import type { Finding } from '../src/core/round/types.ts';
import { rounds, salesAtTarget } from './play.ts';
import { trueWeek, type TrueWeek } from './truth.ts';

/** A Quayside of another seed than the demo's: how much is searched, how dear rivals are, and what it aims at. */
export interface QuaysideMarket {
  name: string;
  seed: number;
  searches: number;
  rivals: number;
  targetAcos: number;
}

export const quaysideMarkets: readonly QuaysideMarket[] = [
  { name: 'quiet', seed: 4101, searches: 0.25, rivals: 1, targetAcos: 0.25 },
  { name: 'dear rivals', seed: 4202, searches: 0.4, rivals: 1.5, targetAcos: 0.2 },
];

/** What twelve weeks of Mowing made of a Quayside, and of its twin that was left alone. */
export interface QuaysidePlayed extends QuaysideMarket {
  acos: { alone: number; mowing: number };
  /** Sales at target over those of the twin. */
  share: number;
  /** Terms of the last round whose 80 % interval of orders per click holds the revealed truth. */
  terms: { inside: number; all: number };
  forecasts: { inside: number; all: number };
  /** The week after all rounds by hidden truth: Mowing's, and the twin's. */
  last: { own: TrueWeek; alone: TrueWeek };
  /** The first sheet: what it was said to change in a week, and the weeks before and after it by hidden truth. */
  first: { said: { spend: number; sales: number }; before: TrueWeek; after: TrueWeek };
  /** Change of sales a week, said and seen, of all raises and cuts. */
  change: Partial<Record<'raise' | 'cut', { said: number; seen: number }>>;
}

const historyDays = 60;
/** Orders of the last week are all known by then. */
const settlingDays = 14;

/** Spend and sales of the twelve weeks, by the marketplace's own books. */
async function books(databaseUrl: string, firstDay: string) {
  const sql = postgres(databaseUrl, { max: 1 });
  try {
    const [row] = await sql<{ spend: number; sales: number }[]>`
      with span as (select ${firstDay}::date + ${historyDays}::int as first, ${firstDay}::date + ${historyDays + 7 * rounds - 1}::int as last)
      select (select coalesce(sum(spend), 0)::float8 from ad_day, span where day between first and last) as spend,
        (select coalesce(sum(sales), 0)::float8 from ad_order, span where day between first and last) as sales`;
    return row!;
  } finally {
    await sql.end();
  }
}

/**
 * A Quayside with 60 days behind it, and Mowing beside it with its goal set and all days fetched. `budgets`: times the
 * demo's; `strategyOf`: each campaign's, in place of the demo's.
 */
export async function openQuayside(
  market: QuaysideMarket & { budgets?: number; strategyOf?: () => 'fixed' | 'down_only' | 'up_and_down' },
  database: (name: string) => Promise<string>,
  home: string,
) {
  const demo = demoScenario(market.seed);
  const world = {
    ...demo,
    searchesPerDay: Math.round(demo.searchesPerDay * market.searches),
    pageVisitsPerDay: Math.round(demo.pageVisitsPerDay * market.searches),
    categoryVisitsPerDay: Math.round(demo.categoryVisitsPerDay * market.searches),
    concepts: demo.concepts.map((one) => ({ ...one, rivalBid: one.rivalBid * market.rivals })),
    campaigns: demo.campaigns.map((one) => ({
      ...one,
      ...(market.strategyOf ? { strategy: market.strategyOf() } : {}),
      dailyBudget: Math.max(2, Math.round(one.dailyBudget * (market.budgets ?? 1) * 100) / 100),
    })),
  };
  const scenario = join(home, `quayside-${market.seed}.json`);
  writeFileSync(scenario, JSON.stringify(world));
  const own = await database(`q${market.seed}`);
  const quaysideBooks = postgres(own, { max: 1, onnotice: () => undefined });
  const quayside = await startQuayside({
    databaseUrl: own,
    scenario,
    days: historyDays,
    flags: ['--reveal'],
    env: { QUAYSIDE_RATE: '1000' },
  });
  const application = await startApplication({
    MOWING_DATABASE_URL: await database(`m${market.seed}`),
    MOWING_DATA_DIR: join(home, `files-${market.seed}`),
    QUAYSIDE_URL: quayside.url,
    MOWING_DEMO: '1',
  });
  const call = <T>(method: string, path: string, body?: unknown) =>
    callApi<T>(application.url, method, path, body);
  const done = async (path: string, body?: unknown) => {
    const { jobId } = await call<{ jobId: string }>('POST', path, body);
    await waitForJob(application.url, jobId);
  };
  const stop = async () => {
    await quaysideBooks.end();
    await application.stop();
    await quayside.stop();
  };
  try {
    await demoAccount(application.url);
    await call('PUT', '/api/1/goals', { scope: 'account', key: '', targetAcos: market.targetAcos });
    await done('/api/1/fetch', {});
  } catch (error) {
    await stop();
    throw error;
  }
  return { own, world, scenario, quaysideBooks, quayside, call, done, stop };
}
export type OpenQuayside = Awaited<ReturnType<typeof openQuayside>>;

/** The days that Round judges by: how many, and as a query. */
export async function judgedDays({ call }: OpenQuayside): Promise<{ days: number; query: string }> {
  const window = (await call<{ window: Window }>('GET', '/api/1/round')).window;
  return { days: windowDays(window), query: `from=${window.from}&to=${window.to}` };
}

/** Mowing runs a Quayside for twelve weeks with everything accepted; a twin of the same seed is left alone. */
export async function playQuayside(
  market: QuaysideMarket,
  database: (name: string) => Promise<string>,
  home: string,
): Promise<QuaysidePlayed> {
  const opened = await openQuayside(market, database, home);
  const { own, world, scenario, quaysideBooks, quayside, call, done } = opened;
  const twin = await database(`q${market.seed}_alone`);
  try {
    let findings: Finding[] = [];
    let first: QuaysidePlayed['first'] | null = null;
    for (let week = 0; week < rounds; week++) {
      const round = await call<{ window: { from: string; to: string }; findings: Finding[] }>(
        'GET',
        '/api/1/round',
      );
      findings = round.findings;
      const keys = findings.filter(({ proposal }) => proposal.kind !== 'wait').map(({ key }) => key);
      if (keys.length > 0) {
        await call('POST', '/api/1/round/accept', { ...round.window, keys });
        const { effect } = await call<OpenSheet>('GET', '/api/1/sheet');
        const before: TrueWeek | null = first ? null : await trueWeek(quaysideBooks);
        await done('/api/1/sheet/send', { clicksMeant: true });
        if (before) {
          const said = { spend: units(effect.spend), sales: units(effect.sales) };
          first = { said, before, after: await trueWeek(quaysideBooks) };
        }
      }
      await done('/api/1/advance', { days: 7 });
    }
    await done('/api/1/advance', { days: settlingDays });
    const ledger = await call<ForecastsAnswer>('GET', '/api/1/forecasts');
    const terms = await heldTerms(quayside.url, findings);
    await startQuayside({
      databaseUrl: twin,
      scenario,
      days: historyDays + 7 * rounds + settlingDays,
    }).then((alone) => alone.stop());
    const twinBooks = postgres(twin, { max: 1, onnotice: () => undefined });
    const last = { own: await trueWeek(quaysideBooks), alone: await trueWeek(twinBooks) };
    await twinBooks.end();
    const [left, run] = [await books(twin, world.account.firstDay), await books(own, world.account.firstDay)];
    const scored = ({ spend, sales }: typeof run) =>
      salesAtTarget({
        way: '',
        targetAcos: market.targetAcos,
        weeks: [{ spend, sales, changes: 0, theta: null }],
      });
    return {
      ...market,
      acos: { alone: left.spend / left.sales, mowing: run.spend / run.sales },
      share: scored(run) / scored(left),
      terms,
      first: first!,
      last,
      forecasts: { inside: ledger.inside, all: ledger.count },
      change: Object.fromEntries(
        ledger.kinds
          .filter(({ kind }) => kind === 'raise' || kind === 'cut')
          .map(({ kind, said, seen }) => [kind, { said: units(said.sales), seen: units(seen.sales) }]),
      ),
    };
  } finally {
    await opened.stop();
  }
}

interface Revealed {
  term: string;
  products: { sku: string; conversion: number }[];
}

/**
 * How many terms in the round believe what is true. Placement, hour and weekday move all conversions alike: by how much
 * is taken from the terms together.
 */
async function heldTerms(quaysideUrl: string, findings: readonly Finding[]) {
  const truth = new Map<string, number>();
  const { token } = (await (
    await fetch(`${quaysideUrl}/token`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ secret: 'quayside-demo' }),
    })
  ).json()) as { token: string };
  for (let cursor: string | null = '0'; cursor !== null;) {
    const page = (await (
      await fetch(`${quaysideUrl}/truth?limit=1000&cursor=${cursor}`, {
        headers: { authorization: `Bearer ${token}` },
      })
    ).json()) as { items: Revealed[]; next_cursor: string | null };
    for (const { term, products } of page.items)
      for (const { sku, conversion } of products) truth.set(`${sku}\t${term}`, conversion);
    cursor = page.next_cursor;
  }
  const known = findings.flatMap(({ queue, sku, subject, working, n }) => {
    const conversion = truth.get(`${sku}\t${subject}`);
    return queue !== 'terms' || conversion === undefined || n <= 0
      ? []
      : [{ gamma: working.gamma, conversion, n }];
  });
  const sum = (of: (row: (typeof known)[number]) => number) =>
    known.reduce((total, row) => total + of(row), 0);
  const level = sum(({ gamma, n }) => (n * gamma.shape) / gamma.rate) / sum((row) => row.n * row.conversion);
  const inside = known.filter(({ gamma, conversion }) => {
    const rate = conversion * level;
    return rate >= quantileOf(gamma, 0.1) && rate <= quantileOf(gamma, 0.9);
  });
  return { inside: inside.length, all: known.length };
}
