import type { FileKind, Layout, Mapping } from '../../answers/imports.ts';
import type { MessagePort } from 'node:worker_threads';
import { connect, isUnreachable, type Database } from '../db/connection.ts';
import { config } from '../config.ts';
import { ServiceError } from '../errors.ts';
import { inspectAs, inspectFile, type Wanted } from './inspect.ts';
import { loadFile, type LoadOrder } from './load.ts';

/** Looks at files and loads them, in a thread whose memory and time are bounded. Bundled to dist/workers/files.mjs. */

export type Task =
  | { do: 'inspect'; path: string; fileName: string; wanted: Wanted }
  | { do: 'inspectAs'; path: string; layout: Layout; kind: FileKind; mapping: Mapping }
  | { do: 'load'; order: LoadOrder; now: Date; port: MessagePort };

/** What a task came to. Errors lose their class between threads: they travel as what they say. */
export type Outcome =
  | { ok: true; value: unknown }
  | { ok: false; why: 'refused'; error: Pick<ServiceError, 'status' | 'code' | 'message' | 'place'> }
  | { ok: false; why: 'unreachable' | 'failed'; error: { code: string; message: string; stack: string } };

let shared: Database | null = null;
const pool = (): Database => (shared ??= connect(config.databaseUrl, 3, { idle_timeout: 60 }));

/** Every so often the thread tells that it is alive, and how far it is. */
const beatEvery = 1000;

async function load({ order, now, port }: Extract<Task, { do: 'load' }>): Promise<unknown> {
  let stopped = false;
  let done = { bytes: 0, step: 'waiting' };
  port.on('message', () => (stopped = true));
  const pulse = setInterval(() => {
    port.postMessage(done);
  }, beatEvery);
  let told = 0;
  try {
    return await loadFile(pool(), order, now, (state) => {
      if (stopped) throw new ServiceError(409, 'cancelled', 'Cancelled.');
      done = state;
      const at = performance.now();
      if (at - told < 200 && state.step === 'reading') return;
      told = at;
      port.postMessage(state);
    });
  } finally {
    clearInterval(pulse);
    port.close();
  }
}

const run = (task: Task): Promise<unknown> => {
  switch (task.do) {
    case 'inspect':
      return inspectFile(task.path, task.fileName, task.wanted);
    case 'inspectAs':
      return inspectAs(task.path, task.layout, task.kind, task.mapping);
    case 'load':
      return load(task);
  }
};

export default async function work(task: Task): Promise<Outcome> {
  try {
    return { ok: true, value: await run(task) };
  } catch (error) {
    if (error instanceof ServiceError) {
      const { status, code, message, place } = error;
      return { ok: false, why: 'refused', error: { status, code, message, place } };
    }
    const { code = '', message, stack = '' } = error as Error & { code?: string };
    const why = isUnreachable(error) ? 'unreachable' : 'failed';
    return { ok: false, why, error: { code: String(code), message, stack } };
  }
}
