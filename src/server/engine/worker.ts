import { parentPort, workerData } from 'node:worker_threads';
import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { TermsEngine } from './terms.ts';
import { connect } from '../db/connection.ts';
import { ExploreEngine } from './engine.ts';
import { JudgingEngine } from './judging.ts';
import { IdleEngine } from './idle.ts';
import { PlacementsEngine } from './placements.ts';
import { BudgetsEngine } from './budgets.ts';
import { HoursEngine } from './hours.ts';
import { TodayEngine } from './today.ts';
import { KitsEngine } from './kits.ts';
import { NightEngine } from './night.ts';
import type { Engines } from './link.ts';

/** Keeps the account's tables, terms and findings off the request thread. Bundled to dist/workers/explore.mjs. */
const sql = connect(workerData as string, 4);
const tables = new ExploreEngine(sql);
const judging = new JudgingEngine(sql, tables);
const engines: Engines = {
  tables,
  terms: new TermsEngine(tables),
  judging,
  nights: new NightEngine(sql, tables),
  kits: new KitsEngine(tables),
  idle: new IdleEngine(sql, tables),
  placements: new PlacementsEngine(sql, tables, judging),
  budgets: new BudgetsEngine(sql, tables, judging),
  hours: new HoursEngine(sql, tables, judging),
  today: new TodayEngine(tables),
};
Comlink.expose(engines, nodeEndpoint(parentPort!));
