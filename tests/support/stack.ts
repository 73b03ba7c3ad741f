import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import postgres from 'postgres';
import { freePort } from '../../scripts/lib/cluster.ts';
import {
  demoAccount,
  root,
  startApplication,
  startQuayside,
  type Running,
} from '../../scripts/lib/processes.ts';

/** The test cluster and its seeded databases, made by `npm test` (scripts/test.ts). */
export const server = (): string => {
  const url = process.env.MOWING_TEST_SERVER;
  if (!url) throw new Error('Run tests with npm test: it starts Postgres and the marketplace for them.');
  return url;
};

/** A database of its own, as a copy of a seeded one when asked. */
export async function makeDatabase(template?: 'quayside_seed' | 'mowing_seed'): Promise<string> {
  const name = `t_${randomUUID().replaceAll('-', '').slice(0, 20)}`;
  const sql = postgres(server(), { max: 1, onnotice: () => undefined });
  try {
    // Copies of one template take turns: Postgres refuses two at once.
    await sql`select pg_advisory_lock(7)`;
    if (template) await sql`create database ${sql(name)} template ${sql(template)}`;
    else await sql`create database ${sql(name)}`;
  } finally {
    await sql.end();
  }
  const url = new URL(server());
  url.pathname = `/${name}`;
  return url.href;
}

export interface Stack {
  url: string;
  quayside: string;
  databaseUrl: string;
  /** The marketplace's own books. */
  quaysideBooks: string;
  application: Running;
  /** Kills the application as a power cut would, and starts it again on the same address. */
  killAndRestart: () => Promise<void>;
  kill: () => Promise<void>;
  restart: () => Promise<void>;
  stop: () => Promise<void>;
}

/** The application with an account that is connected to its marketplace: number 1. */
async function withAccount(settings: NodeJS.ProcessEnv, port: number): Promise<Running> {
  const application = await startApplication(settings, port);
  await demoAccount(application.url);
  return application;
}

/** Quayside and Mowing on databases of their own. `fetched`: with the reports of 90 days already loaded. */
export async function startStack(fetched: boolean, env: NodeJS.ProcessEnv = {}): Promise<Stack> {
  const databaseUrl = await makeDatabase(fetched ? 'mowing_seed' : undefined);
  const files = join(root, '.data/test-files', randomUUID());
  mkdirSync(files, { recursive: true });
  const quaysideBooks = await makeDatabase('quayside_seed');
  const quayside = await startQuayside({
    databaseUrl: quaysideBooks,
    scenario: process.env.MOWING_TEST_SCENARIO!,
    days: 0,
    flags: ['--faults'],
  });
  const settings = {
    MOWING_DATABASE_URL: databaseUrl,
    MOWING_DATA_DIR: files,
    QUAYSIDE_URL: quayside.url,
    MOWING_DEMO: '1',
    ...env,
  };
  const port = await freePort();
  const stack: Stack = {
    url: `http://127.0.0.1:${port}`,
    quayside: quayside.url,
    databaseUrl,
    quaysideBooks,
    application: await withAccount(settings, port),
    kill: () => stack.application.stop('SIGKILL'),
    restart: async () => {
      stack.application = await startApplication(settings, port);
    },
    killAndRestart: async () => {
      await stack.kill();
      await stack.restart();
    },
    stop: async () => {
      await stack.application.stop();
      await quayside.stop();
    },
  };
  return stack;
}

/** Calls Quayside's API as its client would. */
export async function callQuayside<T>(url: string, method: string, path: string, body?: unknown): Promise<T> {
  const sign = await fetch(`${url}/token`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ secret: 'quayside-demo' }),
  });
  const { token } = (await sign.json()) as { token: string };
  const response = await fetch(`${url}${path}`, {
    method,
    headers: { authorization: `Bearer ${token}`, ...(body ? { 'content-type': 'application/json' } : {}) },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
  return (await response.json()) as T;
}

type StructureRow = Record<string, string | number | null>;

/** The marketplace's structure as it stands. */
export async function structureOf(url: string): Promise<StructureRow[]> {
  const rows: StructureRow[] = [];
  for (let cursor: string | null = '0'; cursor !== null;) {
    const page: { items: StructureRow[]; next_cursor: string | null } = await callQuayside(
      url,
      'GET',
      `/structure?limit=1000&cursor=${cursor}`,
    );
    rows.push(...page.items);
    cursor = page.next_cursor;
  }
  return rows;
}

/** A report of the marketplace as its CSV text. */
export async function reportText(url: string, kind: string, from: string, to: string): Promise<string> {
  const { id } = await callQuayside<{ id: string }>(url, 'POST', '/reports', { kind, from, to });
  for (;;) {
    const { state } = await callQuayside<{ state: string }>(url, 'GET', `/reports/${id}`);
    if (state === 'ready') break;
  }
  const sign = await fetch(`${url}/token`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ secret: 'quayside-demo' }),
  });
  const { token } = (await sign.json()) as { token: string };
  const file = await fetch(`${url}/reports/${id}/file`, { headers: { authorization: `Bearer ${token}` } });
  return file.text();
}
