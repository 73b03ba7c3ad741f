import { Worker } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { config } from '../config.ts';
import { ServiceError } from '../errors.ts';
import { log } from '../log.ts';
import type { TermsEngine } from './terms.ts';
import type { ExploreEngine } from './engine.ts';
import type { JudgingEngine } from './judging.ts';
import type { IdleEngine } from './idle.ts';
import type { NightEngine } from './night.ts';
import type { KitsEngine } from './kits.ts';
import type { PlacementsEngine } from './placements.ts';
import type { TodayEngine } from './today.ts';
import type { BudgetsEngine } from './budgets.ts';
import type { HoursEngine } from './hours.ts';

/** What lives in the worker beside the server. */
export interface Engines {
  tables: ExploreEngine;
  terms: TermsEngine;
  judging: JudgingEngine;
  nights: NightEngine;
  kits: KitsEngine;
  idle: IdleEngine;
  placements: PlacementsEngine;
  budgets: BudgetsEngine;
  hours: HoursEngine;
  today: TodayEngine;
}

interface Link {
  engines: Comlink.Remote<Engines>;
  /** Fails when the worker is gone: nobody else would tell those who still wait. */
  gone: Promise<never>;
  end: () => void;
}

let current: Link | null = null;

function link(): Link {
  if (current) return current;
  const worker = new Worker(config.exploreWorker, {
    workerData: config.databaseUrl,
    // Rows are made by the hundred thousand at once: a small nursery would be emptied a hundred times meanwhile.
    resourceLimits: { maxOldGenerationSizeMb: 6000, maxYoungGenerationSizeMb: 192 },
  });
  worker.unref();
  worker.on('error', (error) => {
    log.error({ error }, 'the worker of Explore fell');
  });
  const gone = new Promise<never>((_, reject) => {
    // A worker that fell is made anew by the next call.
    worker.once('exit', () => {
      if (current === made) current = null;
      const message = 'The tables of the account had to be built anew. Nothing was changed; ask again.';
      reject(new ServiceError(503, 'engine_renewed', message));
    });
  });
  gone.catch(() => undefined);
  const made: Link = {
    engines: Comlink.wrap<Engines>(nodeEndpoint(worker)),
    gone,
    end: () => {
      if (current === made) current = null;
      void worker.terminate();
    },
  };
  current = made;
  return made;
}

/** A call that is not answered in time ends its worker: what it was stuck in ends with it. */
async function within<T>(call: Promise<T>, { gone, end }: Link): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => {
      end();
      const message = `This took longer than ${config.engineSeconds} seconds and was stopped. Ask for less: fewer conditions, a shorter window.`;
      reject(new ServiceError(503, 'took_too_long', message));
    }, config.engineSeconds * 1000);
  });
  try {
    return await Promise.race([call, gone, late]);
  } finally {
    clearTimeout(timer);
  }
}

/** Methods of one engine, each bounded in time. */
function bounded<E extends object>(name: keyof Engines): Comlink.Remote<E> {
  return new Proxy({} as Comlink.Remote<E>, {
    get:
      (_, method) =>
      (...args: unknown[]) => {
        const used = link();
        const engine = used.engines[name] as unknown as Record<
          string | symbol,
          (...args: unknown[]) => Promise<unknown>
        >;
        return within(engine[method]!(...args), used);
      },
  });
}

const tablesEngine = bounded<ExploreEngine>('tables');
const wordsEngine = bounded<TermsEngine>('terms');
const judgingEngine = bounded<JudgingEngine>('judging');
const nightsEngine = bounded<NightEngine>('nights');
const kitsEngine = bounded<KitsEngine>('kits');
const idleEngine = bounded<IdleEngine>('idle');
const todayEngine = bounded<TodayEngine>('today');
const budgetsEngine = bounded<BudgetsEngine>('budgets');
const hoursEngine = bounded<HoursEngine>('hours');
const placementsEngine = bounded<PlacementsEngine>('placements');

/** Tables of the account. */
export const tables = (): Comlink.Remote<ExploreEngine> => tablesEngine;

/** What is known of its search terms. */
export const termsEngine = (): Comlink.Remote<TermsEngine> => wordsEngine;

/** Its findings, and what it teaches. */
export const judging = (): Comlink.Remote<JudgingEngine> => judgingEngine;

/** It as it was known on earlier nights. */
export const nightsOf = (): Comlink.Remote<NightEngine> => nightsEngine;

/** What it says about products that get a kit. */
export const kitsOf = (): Comlink.Remote<KitsEngine> => kitsEngine;

/** What costs and sells nothing. */
export const idleOf = (): Comlink.Remote<IdleEngine> => idleEngine;

/** How it stands, day by day, and what moved it. */
export const todayOf = (): Comlink.Remote<TodayEngine> => todayEngine;

/** How long its budgets last. */
export const budgetsOf = (): Comlink.Remote<BudgetsEngine> => budgetsEngine;

/** What its campaigns sell by placement. */
export const placementsOf = (): Comlink.Remote<PlacementsEngine> => placementsEngine;

/** What its campaigns sell by the time of the week. */
export const hoursOf = (): Comlink.Remote<HoursEngine> => hoursEngine;
