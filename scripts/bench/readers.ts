import { Agent, request } from 'node:http';
import { setTimeout as sleep } from 'node:timers/promises';
import { callApi, type Running } from '../lib/processes.ts';
import type { Measure } from './measure.ts';

const readers = 100;
const seconds = 60;
const think = 1000;

interface Call {
  path: string;
  body?: object;
}

interface Findings {
  window: { from: string; to: string };
  findings: { key: string; proposal: { kind: string } }[];
}

/** What people do who look: each place is opened as its page opens it. */
async function callsOf(app: Running): Promise<Call[][]> {
  const { window, findings } = await callApi<Findings>(app.url, 'GET', '/api/1/round');
  const span = `from=${window.from}&to=${window.to}`;
  const comparison = { from: '2026-09-18', to: '2026-10-17' };
  const table = (level: string, sort: string, where: object | null = null): Call => ({
    path: '/api/1/explore/table',
    body: {
      level,
      where,
      sort,
      descending: true,
      columns: ['name', 'clicks', 'spend', 'orders', 'sales', 'acos', 'verdict'],
      window,
      comparison,
      offset: 0,
      limit: 200,
    },
  });
  const bar: Call[] = [{ path: '/api/1/season' }, { path: '/api/1/sheet' }];
  const wasting = {
    all: [
      { column: 'orders', is: 'at_most', value: 0 },
      { column: 'clicks', is: 'at_least', value: 20 },
    ],
  };
  return [
    [...bar, { path: `/api/1/round/queue?${span}` }],
    ...findings
      .slice(0, 40)
      .map(({ key }) => [{ path: `/api/1/round/why?${span}&key=${encodeURIComponent(key)}` }]),
    ...['campaigns', 'ad_groups', 'targets', 'terms', 'products'].flatMap((level) =>
      ['spend', 'sales', 'clicks'].map((sort) => [table(level, sort)]),
    ),
    [...bar, table('terms', 'spend', wasting)],
    [...bar, { path: '/api/1/ledger' }, { path: '/api/1/sheet/lines' }],
    [...bar, { path: '/api/1/lanes' }],
    [...bar, { path: '/api/1/terms/words', body: { ...window } }],
  ];
}

const agent = new Agent({ keepAlive: true, maxSockets: 200 });

/** One call as a browser makes it: it takes packed answers and says which it has already. */
function ask(url: string, call: Call, known: Map<string, string>): Promise<number> {
  const began = performance.now();
  const { path, body } = call;
  return new Promise((resolve, reject) => {
    const tag = known.get(path);
    const sent = request(
      `${url}${path}`,
      {
        agent,
        method: body ? 'POST' : 'GET',
        timeout: 30_000,
        headers: {
          'accept-encoding': 'gzip, br',
          ...(body ? { 'content-type': 'application/json' } : {}),
          ...(tag && !body ? { 'if-none-match': tag } : {}),
        },
      },
      (answer) => {
        const { statusCode = 0, headers } = answer;
        if (headers.etag) known.set(path, headers.etag);
        answer.on('data', () => undefined);
        answer.on('error', reject);
        answer.on('end', () => {
          if (statusCode === 200 || statusCode === 304) resolve(performance.now() - began);
          else reject(new Error(`${path}: ${statusCode}`));
        });
      },
    );
    sent.on('error', (error) => {
      // A connection that was about to be closed: browsers ask again on another one.
      if (sent.reusedSocket && (error as { code?: string }).code === 'ECONNRESET')
        ask(url, call, known).then(resolve, reject);
      else reject(error);
    });
    sent.on('timeout', () => sent.destroy(new Error(`${path}: no answer`)));
    sent.end(body ? JSON.stringify(body) : undefined);
  });
}

const at = (times: number[], share: number): number =>
  times[Math.min(times.length - 1, Math.floor(times.length * share))]!;

/** Somebody who works meanwhile: every three seconds something goes onto the sheet or comes off it. */
async function worker(app: Running, until: number): Promise<void> {
  const { window, findings } = await callApi<Findings>(app.url, 'GET', '/api/1/round');
  const keys = findings.filter(({ proposal }) => proposal.kind === 'bid').map(({ key }) => key);
  for (let step = 0; performance.now() < until; step++) {
    const body = { ...window, keys: [keys[step % keys.length]!] };
    const { groups } = await callApi<{ groups: string[] }>(app.url, 'POST', '/api/1/round/accept', body);
    await sleep(3 * think);
    await callApi(app.url, 'POST', '/api/1/sheet/undo', { groups });
    await sleep(3 * think);
  }
}

/** A hundred people look at the demo account for a minute, each a second after what they saw; then while one works. */
export async function* manyReaders(app: Running): AsyncGenerator<Measure, void, undefined> {
  const places = await callsOf(app);
  const alone: number[] = [];
  // Everything has been asked for once: that is what a minute of a hundred people is about.
  for (const calls of [...places, ...places])
    for (const call of calls) alone.push(await ask(app.url, call, new Map()));
  const warm = at(
    alone.slice(alone.length / 2).sort((a, b) => a - b),
    0.95,
  );
  yield await minute(app, places, 'readers-100', warm);
  const until = performance.now() + seconds * 1000;
  const [measure] = await Promise.all([
    minute(app, places, 'readers-100-and-one-who-works', warm),
    worker(app, until),
  ]);
  yield measure;
  agent.destroy();
}

async function minute(app: Running, places: Call[][], name: string, alone: number): Promise<Measure> {
  const times: number[] = [];
  const byPath = new Map<string, number[]>();
  let errors = 0;
  const until = performance.now() + seconds * 1000;
  const reader = async (number: number) => {
    const known = new Map<string, string>();
    await sleep((number / readers) * think);
    for (let step = number; performance.now() < until; step++) {
      for (const call of places[(step * 7919) % places.length]!) {
        try {
          const took = await ask(app.url, call, known);
          times.push(took);
          const path = call.path.split('?')[0]!.replace('/api/1/', '');
          byPath.set(path, [...(byPath.get(path) ?? []), took]);
        } catch (error) {
          if (errors++ === 0) process.stderr.write(`${String(error)}\n`);
        }
      }
      await sleep(think);
    }
  };
  await Promise.all(Array.from({ length: readers }, (_, number) => reader(number)));
  times.sort((a, b) => a - b);
  const slowest = [...byPath]
    .map(([path, list]) => ({
      path,
      p95: at(
        list.sort((a, b) => a - b),
        0.95,
      ),
    }))
    .sort((a, b) => b.p95 - a.p95)
    .slice(0, 3)
    .map(({ path, p95 }) => `${path} ${Math.round(p95)}`);
  const p95 = at(times, 0.95);
  return {
    name,
    value: p95,
    unit: `ms, 95th of ${times.length} answers (median ${Math.round(at(times, 0.5))}, 99th ${Math.round(at(times, 0.99))}, ${errors} errors; slowest: ${slowest.join(', ')})`,
    reference: `the same calls by one reader (95th ${Math.round(alone)} ms)`,
    ratio: p95 / alone,
    aim: 'under 300 ms, no error',
  };
}
