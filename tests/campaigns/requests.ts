import { Chance } from './chance.ts';

/** Calls that are wrong in one place or more: each has to be answered soon, and never as our own fault. */

export interface RequestFigures {
  calls: number;
  /** Answers of 500 and above. */
  serverErrors: string[];
  /** Refusals that are no problem details. */
  unclear: string[];
  /** Calls that took longer than five seconds, or were never answered. */
  hangs: string[];
  slowest: number;
}

interface Template {
  method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  path: string;
  query?: Record<string, string>;
  body?: unknown;
}

const window = { from: '2026-10-18', to: '2026-11-16' };
const plain = { column: 'spend', is: 'above', value: 1_000_000 };
const table = {
  level: 'terms',
  within: { level: 'campaigns', id: '1' },
  where: { all: [plain, { any: [{ column: 'name', is: 'matches', value: 'jar' }] }] },
  sort: 'spend',
  descending: true,
  columns: ['name', 'spend', 'verdict'],
  window,
  comparison: { from: '2026-09-18', to: '2026-10-17' },
};
const lane = {
  source: '1',
  destination: '2',
  kind: 'keyword',
  matchType: 'exact',
  leastOrders: 2,
  leastClicks: 5,
  goalShare: 1,
  days: 60,
  firstBid: 'evidence',
  fixedBid: null,
  isolate: 'source',
};
const uploadId = '6f2b1f7e-8c1d-4b0e-9a53-0d6a54b7a001';
const list = {
  name: 'a list',
  entries: [{ matchType: 'negative_exact', expression: 'x' }],
  campaignIds: ['1'],
};
const negatives = { scope: 'campaign', ids: ['1'], texts: ['free'], matchType: 'negative_phrase' };

/** One right call of every kind; nothing in them sends, fetches or lets time pass. */
const templates: Template[] = [
  { method: 'GET', path: 'season' },
  { method: 'GET', path: 'round', query: { ...window, offset: '0', limit: '20' } },
  { method: 'GET', path: 'round/queue', query: window },
  { method: 'GET', path: 'round/why', query: { ...window, key: 'bid:1' } },
  {
    method: 'POST',
    path: 'round/accept',
    body: { ...window, keys: ['bid:1'], adjustments: { 'bid:1': { bid: 200_000 } } },
  },
  { method: 'POST', path: 'round/decide', body: { keys: ['bid:1'], decision: 'later', days: 7 } },
  { method: 'GET', path: 'sheet' },
  {
    method: 'GET',
    path: 'sheet/lines',
    query: { show: 'all', find: 'a', order: '-spend', from: '0', count: '50' },
  },
  { method: 'GET', path: 'sheet/numbers', query: { group: 'c:1' } },
  { method: 'GET', path: 'ledger/1/lines', query: { show: 'refused' } },
  { method: 'GET', path: 'ledger/1/effect' },
  { method: 'POST', path: 'sheet/lines', body: { lineIds: [1, 2], back: false } },
  { method: 'POST', path: 'sheet/lines/1', body: { newValue: '300000', version: 1 } },
  { method: 'POST', path: 'sheet/undo', body: { groups: ['a'], back: false } },
  { method: 'GET', path: 'ledger' },
  { method: 'GET', path: 'ledger/1' },
  { method: 'GET', path: 'ledger/1/export' },
  { method: 'POST', path: 'ledger/1/revert', body: { lineIds: [1] } },
  { method: 'POST', path: 'ledger/1/repair', body: {} },
  { method: 'POST', path: 'ledger/1/resume', body: {} },
  { method: 'GET', path: 'goals' },
  {
    method: 'PUT',
    path: 'goals',
    body: {
      scope: 'product',
      key: 'TT-CRK2',
      targetAcos: 0.2,
      bidFloor: 20_000,
      bidCeiling: null,
      stance: 'even',
    },
  },
  { method: 'DELETE', path: 'goals', query: { scope: 'product', key: 'TT-CRK2' }, body: {} },
  { method: 'GET', path: 'settings' },
  { method: 'PUT', path: 'settings', body: { name: 'A', currency: 'EUR', timeZone: 'UTC' } },
  { method: 'DELETE', path: 'settings', body: { name: 'not its name' } },
  { method: 'GET', path: 'jobs' },
  { method: 'GET', path: `jobs/${uploadId}` },
  { method: 'POST', path: `jobs/${uploadId}/cancel`, body: {} },
  { method: 'GET', path: 'imports' },
  {
    method: 'POST',
    path: 'imports',
    body: { uploadId, kind: 'terms-daily', mapping: { date: 0 }, dateOrder: 'ymd' },
  },
  { method: 'POST', path: 'imports/look', body: { uploadId, kind: 'terms-daily', sheet: 'Sheet 1' } },
  { method: 'POST', path: 'imports/package', body: { uploadId } },
  { method: 'GET', path: 'files/rejected-rows-terms-daily.csv' },
  { method: 'GET', path: 'forecasts' },
  { method: 'GET', path: 'lanes', query: window },
  { method: 'PUT', path: 'lanes', body: { lanes: [lane] } },
  { method: 'GET', path: 'lanes/file' },
  {
    method: 'POST',
    path: 'terms/words',
    body: { ...window, sku: null, text: 'jar', only: 'all', sort: 'spend', descending: true, most: 50 },
  },
  { method: 'PUT', path: 'terms/words', body: { words: ['jar'], relevant: true } },
  { method: 'POST', path: 'terms/collateral', body: { ...window, sku: null, words: 'jar' } },
  { method: 'POST', path: 'terms/likeness', body: { ...window, sku: 'TT-CRK2', term: 'jar' } },
  { method: 'POST', path: 'terms/coverage', body: { ...window, term: 'jar' } },
  { method: 'POST', path: 'terms/negate', body: { ...window, sku: null, words: ['zzz'], scope: 'campaign' } },
  { method: 'GET', path: 'terms/lists' },
  { method: 'POST', path: 'terms/lists', body: list },
  { method: 'PUT', path: 'terms/lists/1', body: list },
  { method: 'GET', path: 'terms/lists/1' },
  { method: 'GET', path: 'terms/lists/1/file' },
  { method: 'DELETE', path: 'terms/lists/1', body: {} },
  { method: 'POST', path: 'terms/lists/1/apply', body: {} },
  { method: 'POST', path: 'terms/appearances', body: { ...window, sku: null, comparison: window, most: 20 } },
  { method: 'GET', path: 'terms/conflicts', query: window },
  { method: 'POST', path: 'terms/conflicts', body: { ...window, keys: ['a'] } },
  { method: 'GET', path: 'terms/negatives', query: window },
  { method: 'GET', path: 'terms/negatives/1', query: window },
  { method: 'POST', path: 'terms/negatives', body: negatives },
  { method: 'POST', path: 'terms/negatives/preview', body: negatives },
  { method: 'GET', path: 'terms/progress' },
  { method: 'GET', path: 'explore/slices' },
  {
    method: 'POST',
    path: 'explore/slices',
    body: {
      name: 's',
      body: { level: 'terms', columns: ['name'], where: plain, sort: null, descending: true },
    },
  },
  { method: 'DELETE', path: 'explore/slices/1', body: {} },
  { method: 'GET', path: 'explore/row', query: { ...window, level: 'targets', key: '1' } },
  { method: 'POST', path: 'explore/table', body: { ...table, offset: 0, limit: 20 } },
  { method: 'POST', path: 'explore/export', body: { ...table, format: 'csv' } },
  {
    method: 'POST',
    path: 'explore/trend',
    body: { ...table, span: window, only: { keys: ['1:1'], others: false } },
  },
  {
    method: 'POST',
    path: 'explore/crosstab',
    body: { within: null, where: plain, window, comparison: null, rows: 'campaign', columns: 'match_type' },
  },
  {
    method: 'POST',
    path: 'explore/preview',
    body: { ...table, level: 'targets', edit: { field: 'bid', how: 'percent', value: 5 } },
  },
  {
    method: 'POST',
    path: 'explore/edit',
    body: {
      ...table,
      level: 'targets',
      where: { column: 'spend', is: 'above', value: 1e15 },
      edit: { field: 'bid', how: 'set', value: 300_000 },
      keys: ['1'],
    },
  },
];

const hostile: unknown[] = [
  null,
  '',
  ' ',
  'x'.repeat(5000),
  -1,
  0,
  0.5,
  2_000_000_000,
  2 ** 31,
  2 ** 53,
  1e22,
  1e308,
  '9'.repeat(22),
  '-9223372036854775809',
  'NaN',
  '\u0000',
  'a\u0000b',
  '\ud800',
  '../../../etc/passwd',
  '%ff',
  "'; drop table line; --",
  '<script>alert(1)</script>',
  '=1+1',
  '2026-02-31',
  '9999999999-01-01',
  '0001-01-01',
  '9999-12-31',
  true,
  [],
  {},
  [[[[[[[[[[]]]]]]]]]],
  { all: Array.from({ length: 50 }, () => ({ any: Array.from({ length: 50 }, () => plain) })) },
  { column: 'name', is: 'matches', value: '^(\\w+\\s?)+$!' },
  { __proto__: null, constructor: { prototype: { polluted: true } } },
];

/** Halves of signs cannot be written into an address. */
const isWhole = (text: string): boolean => !/[\ud800-\udfff]/.test(text);

type Spot = (value: unknown) => void;

/** Every place of a value that can hold another. */
function spotsOf(root: unknown): Spot[] {
  const spots: Spot[] = [];
  const walk = (value: unknown) => {
    if (typeof value !== 'object' || value === null) return;
    for (const key of Object.keys(value)) {
      const holder = value as Record<string, unknown>;
      spots.push((other) => (holder[key] = other));
      walk(holder[key]);
    }
  };
  walk(root);
  return spots;
}

function broken(
  chance: Chance,
  template: Template,
): { method: string; path: string; body: string | undefined } {
  const { method, path, query, body } = structuredClone(template);
  const spots = spotsOf(body);
  const times = 1 + chance.below(3);
  for (let i = 0; i < times; i++)
    if (spots.length > 0 && chance.next() < 0.8) chance.of(spots)(chance.of(hostile));
  const text = (value: unknown) => (typeof value === 'string' ? value : JSON.stringify(value));
  const asked = Object.entries(query ?? {}).map(([name, value]) => {
    const said = chance.next() < 0.5 ? text(chance.of(hostile)).slice(0, 2000) : value;
    return `${name}=${isWhole(said) ? encodeURIComponent(said) : '%ED%A0%80'}`;
  });
  const inPath = chance.next() < 0.4 ? text(chance.of(hostile)).slice(0, 300) : '1';
  const named = path.replace(/\b1\b/, isWhole(inPath) ? encodeURIComponent(inPath) : '%ff');
  const account =
    chance.next() < 0.05
      ? encodeURIComponent(
          text(chance.of(hostile))
            .slice(0, 40)
            .replace(/[\ud800-\udfff]/g, ''),
        )
      : '1';
  let sent = body === undefined ? undefined : JSON.stringify(body);
  if (sent !== undefined && chance.next() < 0.05) sent = sent.slice(0, chance.below(sent.length));
  return {
    method: chance.next() < 0.03 ? chance.of(['PATCH', 'OPTIONS', 'DELETE', 'POST']) : method,
    path: `/api/${account}/${named}${asked.length > 0 ? `?${asked.join('&')}` : ''}`,
    body: sent,
  };
}

/** Sends wrong calls one after the other; the server's state is what it happens to be. */
export async function playRequests(url: string, calls: number, seed: number): Promise<RequestFigures> {
  const chance = new Chance(seed);
  const figures: RequestFigures = { calls, serverErrors: [], unclear: [], hangs: [], slowest: 0 };
  for (let i = 0; i < calls; i++) {
    const { method, path, body } = broken(
      chance,
      i < templates.length ? templates[i]! : chance.of(templates),
    );
    const told = `${method} ${path.slice(0, 120)} ${(body ?? '').slice(0, 400)}`;
    const began = performance.now();
    try {
      const answer = await fetch(`${url}${path}`, {
        method,
        headers: { 'content-type': 'application/json', 'idempotency-key': crypto.randomUUID() },
        ...(body === undefined || method === 'GET' ? {} : { body }),
        signal: AbortSignal.timeout(15_000),
      });
      const text = await answer.text();
      if (answer.status >= 500) figures.serverErrors.push(`${answer.status} ${told} ${text.slice(0, 200)}`);
      else if (
        answer.status >= 400 &&
        !answer.headers.get('content-type')?.startsWith('application/problem+json')
      )
        figures.unclear.push(`${answer.status} ${told}`);
    } catch (error) {
      figures.hangs.push(`${told}: ${(error as Error).message}`);
    }
    const took = performance.now() - began;
    figures.slowest = Math.max(figures.slowest, took);
    if (took > 5000) figures.hangs.push(`${Math.round(took)} ms ${told}`);
  }
  return figures;
}
