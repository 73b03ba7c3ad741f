import { Agent, request } from 'node:http';
import { setTimeout as sleep } from 'node:timers/promises';
import { callApi } from '../../scripts/lib/processes.ts';

/**
 * Load, as a campaign: many people look at one account at once, each a second after what they saw, and one may work
 * meanwhile. Every call is answered, and soon.
 */

export interface LoadReport {
  readers: number;
  seconds: number;
  calls: number;
  errors: string[];
  /** Answers that took longer than five seconds. */
  hangs: string[];
  /** Milliseconds: half, 95 and 99 of a hundred answers took no longer. */
  median: number;
  p95: number;
  p99: number;
  /** 95 of a hundred by path, the slowest first. */
  slowest: { path: string; p95: number }[];
}

const think = 1000;
const hangsAfter = 5000;

interface Call {
  path: string;
  body?: object;
}

interface Findings {
  window: { from: string; to: string };
  findings: { key: string; proposal: { kind: string } }[];
}

/** What people do who look: each place is opened as its page opens it. */
async function callsOf(url: string): Promise<Call[][]> {
  const { window, findings } = await callApi<Findings>(url, 'GET', '/api/1/round');
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

/** One call as a browser makes it: it takes packed answers and says which it has already. */
function ask(agent: Agent, url: string, call: Call, known: Map<string, string>): Promise<number> {
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
        ask(agent, url, call, known).then(resolve, reject);
      else reject(error);
    });
    sent.on('timeout', () => sent.destroy(new Error(`${path}: no answer`)));
    sent.end(body ? JSON.stringify(body) : undefined);
  });
}

/** The place in an ordered list below which the share of its values lies. */
export const quantileOf = (times: readonly number[], share: number): number =>
  times[Math.min(times.length - 1, Math.floor(times.length * share))] ?? 0;

const ordered = (times: readonly number[]): number[] => [...times].sort((a, b) => a - b);

/** Somebody who works meanwhile: every three seconds something goes onto the sheet or comes off it. */
async function worker(url: string, until: number): Promise<void> {
  const { window, findings } = await callApi<Findings>(url, 'GET', '/api/1/round');
  const keys = findings.filter(({ proposal }) => proposal.kind === 'bid').map(({ key }) => key);
  for (let step = 0; performance.now() < until; step++) {
    const body = { ...window, keys: [keys[step % keys.length]!] };
    const { groups } = await callApi<{ groups: string[] }>(url, 'POST', '/api/1/round/accept', body);
    await sleep(3 * think);
    await callApi(url, 'POST', '/api/1/sheet/undo', { groups });
    await sleep(3 * think);
  }
}

/** What everybody asks, asked twice by one: milliseconds of the second time, in order. */
export async function warmUp(url: string): Promise<number[]> {
  const places = await callsOf(url);
  const agent = new Agent({ keepAlive: true });
  const times: number[] = [];
  for (const calls of [...places, ...places])
    for (const call of calls) times.push(await ask(agent, url, call, new Map()));
  agent.destroy();
  return ordered(times.slice(times.length / 2));
}

/** So many readers for so many seconds; `working`: and one who works. */
export async function playLoad(
  url: string,
  readers: number,
  seconds: number,
  working: boolean,
): Promise<LoadReport> {
  const places = await callsOf(url);
  const agent = new Agent({ keepAlive: true, maxSockets: readers * 2 });
  const times: number[] = [];
  const byPath = new Map<string, number[]>();
  const [errors, hangs]: string[][] = [[], []];
  const until = performance.now() + seconds * 1000;
  const reader = async (number: number) => {
    const known = new Map<string, string>();
    await sleep((number / readers) * think);
    for (let step = number; performance.now() < until; step++) {
      for (const call of places[(step * 7919) % places.length]!) {
        const path = call.path.split('?')[0]!.replace('/api/1/', '');
        try {
          const took = await ask(agent, url, call, known);
          times.push(took);
          if (took > hangsAfter) hangs!.push(`${path}: ${Math.round(took)} ms`);
          byPath.set(path, [...(byPath.get(path) ?? []), took]);
        } catch (error) {
          errors!.push(String(error));
        }
      }
      await sleep(think);
    }
  };
  await Promise.all([
    ...Array.from({ length: readers }, (_, number) => reader(number)),
    ...(working ? [worker(url, until)] : []),
  ]);
  agent.destroy();
  const all = ordered(times);
  return {
    readers,
    seconds,
    calls: all.length,
    errors: errors!,
    hangs: hangs!,
    median: quantileOf(all, 0.5),
    p95: quantileOf(all, 0.95),
    p99: quantileOf(all, 0.99),
    slowest: [...byPath]
      .map(([path, list]) => ({ path, p95: quantileOf(ordered(list), 0.95) }))
      .sort((a, b) => b.p95 - a.p95),
  };
}
