import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { demoScenario } from '../demo/scenario.ts';
import { playFiles } from '../tests/campaigns/files.ts';
import { playRequests } from '../tests/campaigns/requests.ts';
import { memoryOf } from './bench/measure.ts';
import { build } from './lib/build.ts';
import { startCluster } from './lib/cluster.ts';
import { callApi, demoAccount, root, startApplication, startQuayside, waitForJob } from './lib/processes.ts';

// The long form of the campaigns among the tests: thousands of wrong calls and damaged files against the built
// application. --requests=N, --files=N, --seed=N. One JSON object a campaign; figures, with what was found.

const option = (name: string, usual: number): number =>
  Number(process.argv.find((argument) => argument.startsWith(`--${name}=`))?.slice(name.length + 3) ?? usual);
const [requests, files, seed] = [option('requests', 10_000), option('files', 10_000), option('seed', 1)];

const home = join(root, '.data/campaign');
rmSync(home, { recursive: true, force: true });
mkdirSync(home, { recursive: true });
await build();
const cluster = await startCluster(home);
const scenario = join(home, 'scenario.json');
writeFileSync(scenario, JSON.stringify(demoScenario()));
const started: { stop: () => Promise<void> }[] = [];
let most = 0;

/** At most this many of each are told; more of the same tell nothing new. */
const some = (list: string[]) => ({ count: list.length, first: list.slice(0, 20) });

try {
  const quayside = await startQuayside({
    databaseUrl: await cluster.database('quayside'),
    scenario,
    days: 90,
  });
  started.push(quayside);
  const databaseUrl = await cluster.database('campaign');
  const app = await startApplication({
    MOWING_DATABASE_URL: databaseUrl,
    MOWING_DATA_DIR: join(home, 'files'),
    QUAYSIDE_URL: quayside.url,
  });
  started.push(app);
  const account = await demoAccount(app.url);
  const { jobId } = await callApi<{ jobId: string }>(app.url, 'POST', `/api/${account}/fetch`, {});
  await waitForJob(app.url, jobId, undefined, account);
  setInterval(() => (most = Math.max(most, memoryOf(app.child.pid!))), 500).unref();
  const tell = (campaign: string, figures: object) =>
    process.stdout.write(
      `${JSON.stringify({ campaign, seed, ...figures, peakMiB: Math.round(most), lives: app.child.exitCode === null })}\n`,
    );
  if (requests > 0) {
    const { calls, slowest, serverErrors, unclear, hangs } = await playRequests(app.url, requests, seed);
    tell('requests', {
      calls,
      slowest: Math.round(slowest),
      serverErrors: some(serverErrors),
      unclear: some(unclear),
      hangs: some(hangs),
    });
  }
  if (files > 0) {
    const report = await playFiles(app.url, databaseUrl, files, seed);
    tell('files', {
      ...report,
      slowest: Math.round(report.slowest),
      serverErrors: some(report.serverErrors),
      hangs: some(report.hangs),
      unbalanced: some(report.unbalanced),
      halfApplied: some(report.halfApplied),
    });
  }
} finally {
  for (const running of started.reverse()) await running.stop().catch(() => undefined);
  await cluster.stop();
  rmSync(home, { recursive: true, force: true });
}
