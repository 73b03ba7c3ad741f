import { spawn, type ChildProcess } from 'node:child_process';
import { createInterface } from 'node:readline';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { setTimeout as sleep } from 'node:timers/promises';
import { freePort } from './cluster.ts';
import { marketProgram } from './market.ts';

export const root = fileURLToPath(new URL('../..', import.meta.url)).replace(/\/$/, '');

/** Runs a command to its end; throws when it fails. */
export async function run(command: string, args: string[]): Promise<void> {
  const child = spawn(command, args, { cwd: root, stdio: 'inherit' });
  const status = await new Promise<number | null>((resolve, reject) => {
    child.once('error', reject);
    child.once('close', resolve);
  });
  if (status !== 0) throw new Error(`${command} ${args.join(' ')} failed (exit ${status}).`);
}

export interface Running {
  url: string;
  child: ChildProcess;
  stop: (signal?: NodeJS.Signals) => Promise<void>;
}

function running(child: ChildProcess, url: string): Running {
  const ended = new Promise<void>((done) => child.once('exit', () => done()));
  const stop = async (signal: NodeJS.Signals = 'SIGTERM') => {
    if (child.exitCode === null && child.signalCode === null) child.kill(signal);
    await Promise.race([ended, sleep(8000).then(() => child.kill('SIGKILL'))]);
  };
  return { url, child, stop };
}

export interface QuaysideOptions {
  databaseUrl: string;
  scenario: string;
  days: number;
  flags?: string[];
  env?: NodeJS.ProcessEnv;
  onDay?: (lived: number, wanted: number) => void;
}

/** Starts Quayside and waits until it answers. */
export async function startQuayside(options: QuaysideOptions): Promise<Running> {
  const args = [await marketProgram(join(root, 'market')), '--scenario', options.scenario];
  args.push('--days', String(options.days), ...(options.flags ?? []));
  const child = spawn(process.execPath, args, {
    cwd: root,
    stdio: ['ignore', 'pipe', 'inherit'],
    detached: true,
    env: { ...process.env, ...options.env, QUAYSIDE_DATABASE_URL: options.databaseUrl },
  });
  const lines = createInterface({ input: child.stdout });
  const url = await new Promise<string>((resolve, reject) => {
    child.once('exit', (code) => {
      reject(new Error(`Quayside ended with ${code}.`));
    });
    lines.on('line', (line) => {
      const event = JSON.parse(line) as { event: string; address: string; lived: number; wanted: number };
      if (event.event === 'day') options.onDay?.(event.lived, event.wanted);
      if (event.event === 'ready') resolve(event.address);
    });
  });
  return running(child, url);
}

/** Starts the built application; it may not answer yet. */
export async function spawnApplication(env: NodeJS.ProcessEnv, port?: number): Promise<Running> {
  const chosen = port ?? (await freePort());
  const child = spawn(process.execPath, ['dist/serve.mjs'], {
    cwd: root,
    stdio: ['ignore', 2, 2],
    detached: true,
    env: { ...process.env, ...env, HOST: '127.0.0.1', PORT: String(chosen) },
  });
  return running(child, `http://127.0.0.1:${chosen}`);
}

/** Starts the built application and waits until it answers. */
export async function startApplication(env: NodeJS.ProcessEnv, port?: number): Promise<Running> {
  const application = await spawnApplication(env, port);
  const { url, child } = application;
  for (let tries = 0; ; tries++) {
    if (child.exitCode !== null) throw new Error(`The application ended with ${child.exitCode}.`);
    const answer = await fetch(`${url}/api/health`).catch(() => null);
    if (answer?.ok) {
      const { pid } = (await answer.json()) as { pid: number };
      if (pid === child.pid) return application;
      child.kill();
      throw new Error(`Another process (${pid}) answers at ${url}.`);
    }
    // 503: it waits for its database.
    if ((answer !== null && answer.status !== 503) || tries > 300) {
      child.kill();
      throw new Error(`The application does not start: ${answer ? await answer.text() : 'no answer'}`);
    }
    await sleep(100);
  }
}

/** Calls the application's API as a script would. */
export async function callApi<T>(url: string, method: string, path: string, body?: unknown): Promise<T> {
  const response = await fetch(`${url}${path}`, {
    method,
    headers: { 'content-type': 'application/json', 'idempotency-key': crypto.randomUUID() },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const answer = (await response.json()) as T & { detail?: string };
  if (!response.ok) throw new Error(`${method} ${path}: ${answer.detail ?? response.status}`);
  return answer;
}

/** The account that is connected to the installation's own marketplace; made when there is none. */
export async function demoAccount(url: string): Promise<number> {
  const { accounts } = await callApi<{ accounts: { accountId: number; source: string }[] }>(
    url,
    'GET',
    '/api/accounts',
  );
  const known = accounts.find(({ source }) => source === 'Quayside');
  if (known) return known.accountId;
  const made = await callApi<{ accountId: number }>(url, 'POST', '/api/accounts', {
    name: 'Tarn & Thistle',
    targetAcos: 0.26,
    marketplace: { kind: 'quayside' },
  });
  return made.accountId;
}

/** An account with files only. */
export async function filesAccount(url: string, name = 'Files'): Promise<number> {
  return (await callApi<{ accountId: number }>(url, 'POST', '/api/accounts', { name })).accountId;
}

export interface JobAnswer {
  state: string;
  progress: Record<string, unknown>;
  result: unknown;
  message: string | null;
}

/** Waits for a job to end; throws its message when it failed. */
export async function waitForJob(
  url: string,
  jobId: string,
  onProgress: (progress: Record<string, unknown>) => void = () => undefined,
  account = 1,
): Promise<JobAnswer> {
  for (;;) {
    const job = await callApi<JobAnswer>(url, 'GET', `/api/${account}/jobs/${jobId}`);
    onProgress(job.progress);
    if (job.state === 'done') return job;
    if (job.state === 'failed' || job.state === 'cancelled') throw new Error(job.message ?? job.state);
    await sleep(200);
  }
}
