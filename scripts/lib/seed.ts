import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { demoGoals } from '../../demo/goals.ts';
import { demoScenario } from '../../demo/scenario.ts';
import {
  callApi,
  demoAccount,
  startApplication,
  startQuayside,
  waitForJob,
  type Running,
} from './processes.ts';

type MakeDatabase = (name: string) => Promise<string>;

/**
 * Lives 90 days at a marketplace and loads them once, into the databases `quayside_seed` and `mowing_seed`: every test
 * and campaign then begins with a copy of both. `built`: the application, needed once the days are lived.
 *
 * @returns The path of the scenario.
 */
export async function seed(home: string, database: MakeDatabase, built: Promise<void>): Promise<string> {
  const scenario = join(home, 'scenario.json');
  writeFileSync(scenario, JSON.stringify(demoScenario()));
  const quayside = await startQuayside({ databaseUrl: await database('quayside_seed'), scenario, days: 90 });
  let application: Running | null = null;
  try {
    await built;
    application = await startApplication({
      MOWING_DATABASE_URL: await database('mowing_seed'),
      MOWING_DATA_DIR: join(home, 'files'),
      QUAYSIDE_URL: quayside.url,
    });
    const account = await demoAccount(application.url);
    const { jobId } = await callApi<{ jobId: string }>(application.url, 'POST', `/api/${account}/fetch`, {});
    await waitForJob(application.url, jobId, undefined, account);
    for (const goal of demoGoals) await callApi(application.url, 'PUT', `/api/${account}/goals`, goal);
  } finally {
    await application?.stop();
    await quayside.stop();
  }
  return scenario;
}
