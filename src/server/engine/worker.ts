import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { TermsEngine } from './terms.ts';
import { ExploreEngine } from './engine.ts';
import type { Engines } from './link.ts';

/** Keeps the account's tables and terms off the request thread. Bundled to dist/workers/explore.mjs. */
const tables = new ExploreEngine(workerData as string);
const engines: Engines = { tables, terms: new TermsEngine(tables) };
Comlink.expose(engines, nodeEndpoint(parentPort!));
