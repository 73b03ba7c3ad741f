import postgres from 'postgres';
import type { RoutinesAnswer } from '../../src/answers/routines.ts';
import { newRoutine } from '../../src/core/routines/shipped.ts';
import type { Routine, RoutineKind } from '../../src/core/routines/routine.ts';
import { callApi, waitForJob, type Running } from '../lib/processes.ts';
import type { Measure } from './measure.ts';
import { get } from './placements.ts';

const many = 50;
const span = 'from=2026-10-18&to=2026-11-16';

const methods = [null, 'bands', 'rpc', 'strict'] as const;

/** Fifty routines of unlike kinds: bids by four methods in fifty scopes, some with terms. */
const routineAt = (at: number): Routine => ({
  ...newRoutine(`Bench ${at}`),
  kinds: at % 5 === 0 ? ['harvest', 'negate'] : ['bids'],
  method: methods[at % methods.length]!,
  grace: 0,
  scope:
    at < 4
      ? { of: 'account' }
      : { of: 'products', keys: Array.from({ length: 10 }, (_, i) => `SKU-${at * 10 + i}`) },
  reach: { how: 'propose' },
});

/** Fifty routines over the account of 200,000 targets and a million terms, beside somebody who works in it. */
export async function nightOfMany(app: Running & { databaseUrl: string }): Promise<Measure[]> {
  const sql = postgres(app.databaseUrl, { max: 1, onnotice: () => undefined });
  await callApi<RoutinesAnswer>(app.url, 'GET', '/api/1/routines');
  await sql`update routine set removed_at = now() where account_id = 1`;
  await sql`insert into report_day (account_id, kind, day, as_of, loaded_at, rows)
    select 1, 'targets-daily', today, today, now(), 1 from account where account_id = 1
    on conflict (account_id, kind, day) do update set loaded_at = now()`;
  const ids: number[] = [];
  for (let at = 0; at < many; at++) {
    const { routineId } = await callApi<{ routineId: number }>(
      app.url,
      'POST',
      '/api/1/routines',
      routineAt(at),
    );
    ids.push(routineId);
  }
  // What a person has open is there already.
  const pages = [`round/queue?${span}`, 'sheet', 'routines', 'ledger'].map(
    (path) => `${app.url}/api/1/${path}`,
  );
  for (const page of pages) await get(page);
  const alone = await times(pages, 5);
  const start = performance.now();
  for (const id of ids) await callApi(app.url, 'POST', `/api/1/routines/${id}`, { act: 'run' });
  const beside: number[] = [];
  for (;;) {
    beside.push(...(await times(pages.slice(1), 1)));
    const { runs } = await callApi<RoutinesAnswer>(app.url, 'GET', '/api/1/routines');
    if (runs.filter(({ state }) => state !== 'running').length >= many) break;
    await new Promise((done) => setTimeout(done, 300));
  }
  const seconds = (performance.now() - start) / 1000;
  await sql.end();
  const p95 = (list: number[]) => 1000 * list.sort((a, b) => a - b)[Math.floor(list.length * 0.95)]!;
  const quiet = p95(alone.filter((_, at) => at % pages.length !== 0));
  return [
    {
      name: 'routines-50-night',
      value: seconds,
      unit: 's',
      reference: '180 s',
      ratio: seconds / 180,
      aim: 'under 180 s',
    },
    {
      name: 'routines-beside-p95',
      value: p95(beside),
      unit: 'ms',
      reference: `the same pages while none runs (p95 ${quiet.toFixed(0)} ms)`,
      ratio: p95(beside) / quiet,
      aim: 'under 300 ms',
    },
  ];
}

/** Seconds of each page, asked some times in turn. */
async function times(pages: readonly string[], rounds: number): Promise<number[]> {
  const found: number[] = [];
  for (let round = 0; round < rounds; round++)
    for (const page of pages) found.push((await get(page)).seconds);
  return found;
}

/** What is played for sixty nights, by the end of the measure's name. */
const played = {
  '': ['bids', 'negate', 'harvest'],
  '-campaigns': ['placements', 'budgets'],
  '-hours': ['hours'],
  '-words': ['words', 'conflicts'],
} as const satisfies Record<string, readonly RoutineKind[]>;

/** Sixty nights of the demo account, played. */
export async function sixtyNights(url: string): Promise<Measure[]> {
  const judged = performance.now();
  await callApi(url, 'GET', '/api/1/round?from=2026-10-12&to=2026-11-10');
  const one = (performance.now() - judged) / 1000;
  const measures: Measure[] = [];
  for (const [end, kinds] of Object.entries(played)) {
    const settings = { ...newRoutine('Bench nights'), kinds, grace: 0 };
    const start = performance.now();
    const { jobId } = await callApi<{ jobId: string }>(url, 'POST', '/api/1/routines/dry', {
      settings,
      from: '2026-09-20',
      to: '2026-11-18',
    });
    await waitForJob(url, jobId);
    const seconds = (performance.now() - start) / 1000;
    measures.push({
      name: `routines-60-nights${end}`,
      value: seconds,
      unit: 's',
      reference: `60 rounds judged once (${(60 * one).toFixed(1)} s)`,
      ratio: seconds / (60 * one),
      aim: 'under 30 s',
    });
  }
  return measures;
}
