import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { demoGoals } from '../demo/goals.ts';
import { demoScenario } from '../demo/scenario.ts';
import { build } from './lib/build.ts';
import { startCluster } from './lib/cluster.ts';
import { callApi, demoAccount, root, startApplication, startQuayside, waitForJob } from './lib/processes.ts';
import { Stops } from './lib/stops.ts';

// Starts everything for the demo account; Ctrl-C stops it all. Kept under .data/demo: the second start is quick.

const home = process.env.MOWING_DEMO_DIR ?? join(root, '.data/demo');
const began = performance.now();
const say = (text: string) => process.stdout.write(`${text}\n`);
const show = (text: string) => {
  if (process.stdout.isTTY) process.stdout.write(`\r\u001b[K${text}`);
  else say(text);
};

const stops = new Stops();

try {
  mkdirSync(join(home, 'files'), { recursive: true });
  say('Starting Postgres');
  const cluster = await startCluster(home);
  stops.add(cluster.stop);
  const scenario = join(home, 'scenario.json');
  // Once a week or so somebody changes a bid at the marketplace, as happens in life.
  writeFileSync(scenario, JSON.stringify({ ...demoScenario(), hands: 0.15 }));
  const built = build();

  say('Starting Quayside, the marketplace');
  const quayside = await startQuayside({
    databaseUrl: await cluster.database('quayside'),
    scenario,
    days: 90,
    onDay: (lived, wanted) => {
      if (lived % 10 === 0 || process.stdout.isTTY) show(`Quayside lives day ${lived} of ${wanted}`);
    },
  });
  stops.add(() => quayside.stop());
  if (process.stdout.isTTY) show('');

  say('Building the application, when it changed');
  await built;
  const port = process.env.PORT ? Number(process.env.PORT) : undefined;
  const application = await startApplication(
    {
      MOWING_DATABASE_URL: await cluster.database('mowing'),
      MOWING_DATA_DIR: join(home, 'files'),
      QUAYSIDE_URL: quayside.url,
      MOWING_DEMO: '1',
    },
    port,
  );
  stops.add(() => application.stop());

  const account = await demoAccount(application.url);
  const season = await callApi<{ days: unknown[] }>(application.url, 'GET', `/api/${account}/season`);
  if (season.days.length === 0) {
    const { jobId } = await callApi<{ jobId: string }>(application.url, 'POST', `/api/${account}/fetch`, {});
    let last = '';
    await waitForJob(
      application.url,
      jobId,
      ({ doing }) => {
        if (doing !== last) show(`Loading reports: ${String(doing ?? '')}`);
        last = String(doing ?? '');
      },
      account,
    );
    if (process.stdout.isTTY) show('');
    for (const goal of demoGoals) await callApi(application.url, 'PUT', `/api/${account}/goals`, goal);
  }
  say(`\nMowing is ready after ${Math.round((performance.now() - began) / 1000)} s: ${application.url}`);
  say('Ctrl-C stops everything; what it knows is kept for the next start.');
  for (const { child } of [quayside, application]) {
    child.once('exit', () => {
      if (!stops.begun) say('A part has ended unexpectedly; stopping.');
      void stops.all(1);
    });
  }
} catch (error) {
  say(`\n${error instanceof Error ? error.message : String(error)}`);
  await stops.all(1);
}
