import postgres from 'postgres';
import type { GoalsAnswer, MethodsAnswer, WhatIfAnswer } from '../../src/answers/goals.ts';
import { waitForJob, type Running } from '../lib/processes.ts';
import { loadFile } from './load-file.ts';
import type { Measure } from './measure.ts';

const window = 'from=2026-10-18&to=2026-11-16';
const rows = 10_000;

/** A file of goals for as many ad groups and campaigns as there are, the same ones again until it is long enough. */
const goalsFile = (): string =>
  'scope,id,target_acos,bid_floor,method\n' +
  Array.from(
    { length: rows },
    (_, i) =>
      `${i % 8000 < 4000 ? `ad_group,g${1 + (i % 4000)}` : `campaign,c${1 + (i % 4000)}`},${20 + (i % 9)}%,0.0${4 + (i % 5)},${i % 3 === 0 ? 'bands' : 'evidence'}`,
  ).join('\n');

/** What a goal would change, and methods compared, on 200,000 targets and a million terms; and goals from a file. */
export async function goalsOfLarge(app: Running & { databaseUrl: string }): Promise<Measure[]> {
  const sql = postgres(app.databaseUrl, { max: 1 });
  const start = performance.now();
  await sql`select count(*) from (select target_id, sum(clicks), sum(spend), sum(orders) from target_day group by 1) s`;
  const sums = (performance.now() - start) / 1000;
  const timed = async <T>(work: () => Promise<T>): Promise<[T, number]> => {
    const began = performance.now();
    const answer = await work();
    return [answer, (performance.now() - began) / 1000];
  };
  const json = async <T>(path: string, init?: RequestInit): Promise<T> => {
    const answer = await fetch(`${app.url}/api/1/${path}`, init);
    if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
    return (await answer.json()) as T;
  };
  const whatIf = (targetAcos: number) =>
    json<WhatIfAnswer>(`goals/what-if?${window}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ scope: 'account', targetAcos }),
    });
  // With its theta, as every account that was ever judged has it.
  await json('goals', {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ scope: 'account', targetAcos: 0.26 }),
  });
  for (let steered = false; !steered;) {
    const { goals } = await json<GoalsAnswer>('goals');
    steered = goals.some(({ theta }) => theta !== null);
    await new Promise((done) => setTimeout(done, 200));
  }
  const [, first] = await timed(() => whatIf(0.25));
  const drags: number[] = [];
  for (const goal of [0.24, 0.22, 0.2, 0.28, 0.35]) drags.push((await timed(() => whatIf(goal)))[1]);
  drags.sort((a, b) => a - b);
  const [methods, compared] = await timed(() => json<MethodsAnswer>(`goals/methods?${window}`));
  const [, page] = await timed(() => json<MethodsAnswer>(`goals/methods?${window}&offset=100000`));
  const [, idle] = await timed(() => json(`idle?span=30&limit=50000`));
  const [, load] = await timed(async () =>
    waitForJob(app.url, await loadFile(app, 'goals.csv', new Blob([goalsFile()]), 'goals')),
  );
  const [kept] = await sql<{ count: number }[]>`select count(*)::int as count from goal`;
  const copied = await timed(async () => {
    await sql`create temporary table bare (scope text, key text, target float8, floor bigint, method text)`;
    await sql`insert into bare select 'ad_group', i::text, 0.2, 40000, 'bands' from generate_series(1, ${rows}::int) i`;
  });
  await sql.end();
  const against = `Postgres's sums of its targets (${sums.toFixed(1)} s)`;
  const about = { unit: 's', reference: against };
  return [
    { ...about, name: 'what-if-first', value: first, ratio: first / sums, aim: 'none named' },
    {
      ...about,
      name: 'what-if-drag-median',
      value: drags[2]!,
      ratio: drags[2]! / sums,
      aim: '1.5 s on 200,000 targets',
    },
    {
      ...about,
      name: `compare-methods-${methods.count}-targets`,
      value: compared,
      ratio: compared / sums,
      aim: 'under 5 s',
    },
    { ...about, name: 'compare-methods-next-page', value: page, ratio: page / sums, aim: 'none named' },
    { ...about, name: 'without-orders-200k-targets', value: idle, ratio: idle / sums, aim: 'none named' },
    {
      name: `goals-file-${rows}-rows`,
      value: load,
      unit: `s (${kept!.count} goals kept)`,
      reference: `as many bare rows inserted by Postgres (${copied[1].toFixed(2)} s)`,
      ratio: load / copied[1],
      aim: 'under 3 s',
    },
  ];
}
