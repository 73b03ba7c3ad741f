import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from '../../scripts/lib/processes.ts';

/** Everything that can be read of an account, so that two accounts can be held side by side. */

const window = { from: '2026-10-18', to: '2026-11-16' };
const span = `from=${window.from}&to=${window.to}`;
const levels = ['campaigns', 'ad_groups', 'targets', 'terms', 'placements', 'products', 'negatives'];
const tableOf = (level: string, more: object = {}) => ({
  level,
  columns: level === 'negatives' ? ['name'] : ['name', 'clicks', 'spend', 'sales'],
  sort: 'name',
  limit: 2000,
  window,
  ...more,
});

/** What only one account can answer, or what is no reading: told here, so that nothing is left out unseen. */
const leftOut: Record<string, string> = {
  advance: 'moves a demo on',
  fetch: 'begins a job',
  'goals/costs': 'writes',
  files: 'takes a file',
  'files/[name]': 'a file as it was loaded',
  imports: 'begins a job',
  'imports/look': 'looks at a file',
  'imports/package': 'looks at a file',
  jobs: 'jobs of its own',
  'imports/[id]/back': 'writes',
  'jobs/[id]': 'jobs of its own',
  'jobs/[id]/cancel': 'ends a job',
  'jobs/[id]/events': 'jobs of its own',
  package: 'a file with its name',
  settings: 'its own name',
  season: 'its own name, flags of what it did',
  'terms/progress': 'how far a reading is',
  'terms/lists/read': 'looks at a file',
  'explore/edit': 'writes',
  'ledger/[id]/repair': 'writes',
  'ledger/[id]/resume': 'writes',
  'ledger/[id]/revert': 'writes',
  'kits/[id]/sheet': 'writes',
  'kits/file': 'looks at a file',
  'kits/pages': 'asks the marketplace, which no package tells',
  'kits/categories': 'asks the marketplace, which no package tells',
  'kits/pictures': 'takes a file',
  'kits/pictures/[id]': 'a file as it was sent',
  'round/accept': 'writes',
  'trials/[id]': 'writes',
  routines:
    'off in a copy, and with numbers of its own: the shipped ones are put down when they are first asked for',
  'routines/switch': 'writes',
  'routines/dry': 'begins a job',
  'routines/[id]': 'writes',
  'routines/[id]/stages': 'wants a routine: tests/server/routines.test.ts',
  'routines/runs/[id]': 'writes',
  'routines/file': 'a file of what is read already',
  'round/decide': 'writes',
  'reports/[id]': 'asked where there is one',
  'reports/[id]/file': 'asked where there is one',
  'spend/budgets/file': 'a file of what is read already',
  'spend/hours/file': 'a file of what is read already',
  'spend/placements/strategies': 'writes',
  'spend/hours/after': 'wants a campaign: tests/server/hours.test.ts',
  'sheet/carried': 'writes',
  'sheet/lines/[line]': 'writes',
  'sheet/send': 'writes',
  'sheet/undo': 'writes',
  'terms/lists/[id]/apply': 'writes',
  'terms/negate': 'writes',
};

/** Every endpoint of an account, by its path. */
function routes(): string[] {
  const folder = join(root, 'src/pages/api/[account]');
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.ts') && /\b(GET|POST)\b/.test(readFileSync(join(folder, name), 'utf8')))
    .map((name) => name.replace(/(\/index)?\.ts$/, ''));
}

/** Numbers to nine digits: sums of the same values in another order differ beyond them. */
const rounded = (value: unknown): unknown =>
  typeof value === 'number' && !Number.isInteger(value) ? Number(value.toPrecision(9)) : value;

/** An answer without what may differ between two that say the same. */
export const plain = (answer: unknown): unknown =>
  JSON.parse(JSON.stringify(answer), (key, value: unknown) =>
    key === 'milliseconds' || key === 'account_id' ? 0 : rounded(value),
  );

const read = (text: string): unknown => {
  try {
    return plain(JSON.parse(text));
  } catch {
    return text;
  }
};

/** Answers of every endpoint that reads, by path and what was asked. Throws where one refuses, or is not asked. */
export async function readAll(url: string, account: number): Promise<Record<string, unknown>> {
  const found: Record<string, unknown> = {};
  const seen = new Set(Object.keys(leftOut));
  const call = async (route: string, path: string, body?: object) => {
    seen.add(route);
    const answer = await fetch(`${url}/api/${account}/${path}`, {
      method: body ? 'POST' : 'GET',
      ...(body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}),
    });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${path}: ${answer.status} ${text}`);
    return (found[`${path} ${body ? JSON.stringify(body) : ''}`] = read(text));
  };
  const get = (route: string, query = '') => call(route, `${route}${query}`);
  const ask = (route: string, body: object) => call(route, route, body);
  const round = (await get('round', `?${span}`)) as { findings: { key: string; target: string }[] };
  await get('round/queue', `?${span}`);
  await get('round/wider', `?${span}`);
  await get('spend/placements', `?${span}`);
  await get('spend/placements/conditions', `?${span}`);
  await get('spend/budgets', `?${span}`);
  await get('spend/budgets/alone', `?${span}`);
  await get('spend/hours', `?${span}`);
  await get('spend/hours/scope', `?${span}&of=account`);
  await get('spend/pace');
  for (const part of ['', '/verdicts', '/moved', '/queues']) await get(`today${part}`, `?${span}`);
  const organic = (await get('organic', `?${span}`)) as { products: { sku: string }[] };
  await get('organic/following');
  for (const { sku } of organic.products.slice(0, 1)) await get('organic/product', `?${span}&sku=${sku}`);
  await get('notes', `?${span}`);
  await get('trials');
  await get('routines/log');
  await get('routines/waiting');
  for (const { reportId } of (await get('reports')) as { reportId: number }[]) {
    await call('reports/[id]', `reports/${reportId}`);
    await call('reports/[id]/file', `reports/${reportId}/file`);
  }
  for (const { key } of round.findings.slice(0, 3))
    await get('round/why', `?${span}&key=${encodeURIComponent(key)}`);
  for (const route of [
    'sheet',
    'sheet/lines',
    'ledger',
    'ledger/outside',
    'goals',
    'goals/plan',
    'goals/testing',
    'idle/tolerances',
    'goals/file',
    'goals/plan/file',
    'forecasts',
    'terms/lists',
    'explore/slices',
  ])
    await get(route);
  await get('goals/places', '?text=exact');
  await get('idle', '?limit=50');
  await get('goals/methods', `?${span}&limit=20`);
  await ask('goals/what-if', { scope: 'account', targetAcos: 0.2 });
  await get('kits/desk');
  await get('kits/collections');
  for (const { kitId } of (await get('kits')) as { kitId: string }[])
    await call('kits/[id]', `kits/${kitId}`);
  // What a marketplace suggests goes with its connection, which no package tells.
  const said = (await get('kits/grounds', '?sku=TT-LID4')) as { suggestions?: unknown; problem?: unknown };
  delete said.suggestions;
  delete said.problem;
  await get('sheet/numbers', '?show=all');
  for (const part of ['', '/lines', '/effect', '/export'])
    await call(`ledger/[id]${part}`, `ledger/1${part}`);
  await get('lanes', `?${span}`);
  await get('lanes/file');
  const { negatives } = (await get('terms/negatives', `?${span}`)) as { negatives: { id: string }[] };
  await call('terms/negatives/[id]', `terms/negatives/${negatives[0]!.id}?${span}`);
  await get('terms/conflicts', `?${span}`);
  const { lists } = found['terms/lists '] as { lists: { id: number }[] };
  for (const { id } of lists) {
    await call('terms/lists/[id]', `terms/lists/${id}`);
    await call('terms/lists/[id]/file', `terms/lists/${id}/file`);
  }
  const words = (await ask('terms/words', { ...window, sku: null })) as { rows: { words: string }[] };
  await ask('terms/collateral', { ...window, sku: null, words: words.rows[0]!.words });
  const term = words.rows[1]!.words;
  await ask('terms/coverage', { ...window, term });
  await ask('terms/appearances', { ...window, sku: null });
  for (const level of levels) await ask('explore/table', tableOf(level));
  const targets = found[`explore/table ${JSON.stringify(tableOf('targets'))}`] as {
    rows: { key: string; values: (string | number)[] }[];
  };
  const products = found[`explore/table ${JSON.stringify(tableOf('products'))}`] as {
    rows: { key: string }[];
  };
  await ask('terms/likeness', { ...window, sku: products.rows[0]!.key, term });
  await get('explore/row', `?level=targets&key=${targets.rows[0]!.key}&${span}`);
  const level = tableOf('targets');
  await ask('explore/usual', { ...level, columns: ['spend'], limit: undefined, sort: null });
  await ask('explore/trend', { ...level, limit: undefined, span: window });
  await ask('explore/export', { ...level, limit: undefined, format: 'csv' });
  await ask('explore/preview', {
    ...level,
    limit: undefined,
    keys: null,
    values: null,
    edit: { field: 'bid', how: 'percent', value: 0.1 },
    keepGuards: true,
  });
  const cut = { window, within: null, where: null, rows: 'campaign', columns: 'match_type' };
  await ask('explore/crosstab', cut);
  await ask('explore/crosstab/export', { ...cut, figures: ['acos'], format: 'csv' });
  await ask('terms/negatives/preview', { scope: 'account', texts: ['free'], matchType: 'negative_exact' });
  const missed = routes().filter((route) => !seen.has(route));
  if (missed.length > 0) throw new Error(`Nothing was asked of ${missed.join(', ')}.`);
  return found;
}
