import { Worker } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { config } from '../config.ts';
import type { TermsEngine } from '../terms/engine.ts';
import type { ExploreEngine } from './engine.ts';

/** What lives in the worker beside the server. */
export interface Engines {
  tables: ExploreEngine;
  terms: TermsEngine;
}

let engines: Comlink.Remote<Engines> | null = null;

function link(): Comlink.Remote<Engines> {
  if (engines) return engines;
  const worker = new Worker(config.exploreWorker, { workerData: config.databaseUrl });
  worker.unref();
  // A worker that fell is made anew by the next call.
  worker.once('exit', () => (engines = null));
  engines = Comlink.wrap<Engines>(nodeEndpoint(worker));
  return engines;
}

/** Tables of the account. */
export const tables = (): Comlink.Remote<ExploreEngine> =>
  link().tables as unknown as Comlink.Remote<ExploreEngine>;

/** What is known of its search terms. */
export const termsEngine = (): Comlink.Remote<TermsEngine> =>
  link().terms as unknown as Comlink.Remote<TermsEngine>;
