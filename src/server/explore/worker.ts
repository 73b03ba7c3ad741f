import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { ExploreEngine } from './engine.ts';

/** Keeps the account's tables off the request thread. Bundled to dist/workers/explore.mjs. */
Comlink.expose(new ExploreEngine(workerData as string), nodeEndpoint(parentPort!));
