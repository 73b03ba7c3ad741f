import type { FileKind, Inspection, Layout, LoadResult, Mapping } from '../../answers/imports.ts';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { config } from '../config.ts';
import { ServiceError } from '../errors.ts';
import { log } from '../log.ts';
import type { Outcome, Task } from './files.worker.ts';
import type { Wanted } from './inspect.ts';
import type { LoadOrder, Progress } from './load.ts';

/**
 * Files from outside are looked at and loaded in threads of bounded memory and time: whatever is in them, the server
 * stays up. A file whose thread died twice is given back.
 */

/** A thread that neither ends nor gets on. */
const stuckAfter = { look: 120_000, load: 120_000 };
const mostDeaths = 2;
/** How long a load that was cancelled may take to undo itself before its thread is ended. */
const graceAfterStop = 5000;

const pools = new Map<string, Piscina<Task, Outcome>>();

function poolOf(use: 'look' | 'load'): Piscina<Task, Outcome> {
  let pool = pools.get(use);
  if (!pool) {
    pool = new Piscina<Task, Outcome>({
      filename: config.filesWorker,
      minThreads: 0,
      maxThreads: use === 'look' ? 1 : 2,
      idleTimeout: 60_000,
      maxQueue: 64,
      resourceLimits: {
        maxOldGenerationSizeMb: Math.round(config.fileMemory * (use === 'look' ? 0.4 : 1)),
        maxYoungGenerationSizeMb: 48,
      },
    });
    pools.set(use, pool);
  }
  return pool;
}

class WorkerDied extends Error {}

/** The value of a task; its errors as they were. */
async function outcomeOf(running: Promise<Outcome>): Promise<unknown> {
  let outcome: Outcome;
  try {
    outcome = await running;
  } catch (error) {
    throw new WorkerDied((error as Error).message);
  }
  if (outcome.ok) return outcome.value;
  const { error } = outcome;
  if (outcome.why === 'refused') {
    const { status, code, message, place } = outcome.error;
    throw new ServiceError(status, code, message, place);
  }
  throw Object.assign(new Error(error.message), error);
}

async function look(task: Task, fileName: string): Promise<unknown> {
  try {
    return await outcomeOf(poolOf('look').run(task, { signal: AbortSignal.timeout(stuckAfter.look) }));
  } catch (error) {
    if (!(error instanceof WorkerDied)) throw error;
    log.warn({ error, fileName }, 'a file could not be looked at');
    throw tooHard(fileName);
  }
}

const tooHard = (fileName: string) =>
  new ServiceError(
    422,
    'unreadable_file',
    'Reading it took more time or memory than a table of its size needs, so nothing of it was loaded. Save it anew, or as CSV.',
    { file: fileName },
  );

export const inspectFile = (path: string, fileName: string, wanted: Wanted = {}): Promise<Inspection> =>
  look({ do: 'inspect', path, fileName, wanted }, fileName) as Promise<Inspection>;

export const inspectAs = (
  path: string,
  layout: Layout,
  kind: FileKind,
  mapping: Mapping,
): Promise<Pick<Inspection, 'dateOrders' | 'decimalMarks' | 'missing'>> =>
  look({ do: 'inspectAs', path, layout, kind, mapping }, '') as ReturnType<typeof inspectAs>;

/** Loads a file. `progress` may throw: the load is undone then, and this throws the same. */
export async function loadFile(order: LoadOrder, now: Date, progress: Progress): Promise<LoadResult> {
  for (let death = 1; ; death++) {
    try {
      return await loadOnce(order, now, progress);
    } catch (error) {
      if (!(error instanceof WorkerDied)) throw error;
      log.warn({ error, fileName: order.fileName, death }, 'the thread of a load died');
      if (death >= mostDeaths) throw tooHard(order.fileName);
    }
  }
}

async function loadOnce(order: LoadOrder, now: Date, progress: Progress): Promise<LoadResult> {
  const { port1: port, port2 } = new MessageChannel();
  const ending = new AbortController();
  const end = () => {
    ending.abort();
  };
  const heard: { failure?: unknown } = {};
  let bytes = -1;
  let stuck = setTimeout(end, stuckAfter.load);
  const alive = () => {
    clearTimeout(stuck);
    stuck = setTimeout(end, stuckAfter.load);
  };
  port.on('message', (state: { bytes: number; step: string }) => {
    // While it reads it has to get on; while it waits or merges, living is enough.
    if (state.step !== 'reading' || state.bytes !== bytes) alive();
    bytes = state.bytes;
    if ('failure' in heard) return;
    void (async () => progress(state))().catch((error: unknown) => {
      if ('failure' in heard) return;
      heard.failure = error;
      port.postMessage('stop');
      setTimeout(end, graceAfterStop).unref();
    });
  });
  try {
    const task: Task = { do: 'load', order, now, port: port2 };
    const running = poolOf('load').run(task, { signal: ending.signal, transferList: [port2] });
    return (await outcomeOf(running)) as LoadResult;
  } catch (error) {
    throw 'failure' in heard ? heard.failure : error;
  } finally {
    clearTimeout(stuck);
    port.close();
  }
}
