import { nightOfMany, sixtyNights } from './bench/routines.ts';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { demoScenario } from '../demo/scenario.ts';
import { bigAccount, judgeBig } from './bench/big-account.ts';
import { goalsOfLarge } from './bench/goals.ts';
import { exploreAccount, exploreTables } from './bench/explore.ts';
import { largeKitOnSheet, planLargeKit } from './bench/kits.ts';
import { testsOfLarge } from './bench/testing.ts';
import { organicOfLarge } from './bench/organic.ts';
import { placementsOfLarge } from './bench/placements.ts';
import { splitOfMany, todayOfDemo, todayOfLarge } from './bench/today.ts';
import { loadMillion } from './bench/load-million.ts';
import { memoryOf, type Measure } from './bench/measure.ts';
import { manyAccounts } from './bench/neighbours.ts';
import { pageWeights } from './bench/pages.ts';
import { manyReaders } from './bench/readers.ts';
import { smallCopies } from './bench/small-copies.ts';
import { scrollFindings } from './bench/scroll.ts';
import { largeScenario, largeSheet } from './bench/sheet.ts';
import { coverageOfMillion, wordsOfMillion, wordyTerms } from './bench/terms.ts';
import { build } from './lib/build.ts';
import { startCluster } from './lib/cluster.ts';
import {
  callApi,
  demoAccount,
  filesAccount,
  root,
  startApplication,
  startQuayside,
  waitForJob,
  type Running,
} from './lib/processes.ts';

// Measures and prints one line a figure; with --json as one JSON object a line. Figures, never verdicts: these
// machines are noisy, so read the ratios. --only=NAME runs one bench.

const asJson = process.argv.includes('--json');
const only = process.argv.find((argument) => argument.startsWith('--only='))?.slice(7);

function print(measure: Measure): void {
  const ratio = measure.ratio === null ? null : Math.round(measure.ratio * 100) / 100;
  const value = Math.round(measure.value * 100) / 100;
  if (asJson) process.stdout.write(`${JSON.stringify({ ...measure, value, ratio })}\n`);
  else {
    const against = ratio === null ? measure.reference : `${ratio} x ${measure.reference}`;
    process.stdout.write(`${measure.name}: ${value} ${measure.unit} (${against}; aim ${measure.aim})\n`);
  }
}

const home = join(root, '.data/bench');
rmSync(home, { recursive: true, force: true });
mkdirSync(home, { recursive: true });
await build();
const cluster = await startCluster(home);

async function application(
  database: string,
  more: NodeJS.ProcessEnv = {},
): Promise<Running & { databaseUrl: string }> {
  const databaseUrl = await cluster.database(database);
  const running = await startApplication({
    MOWING_DATABASE_URL: databaseUrl,
    MOWING_DATA_DIR: join(home, 'files'),
    ...more,
  });
  started.push(running);
  await (more.QUAYSIDE_URL ? demoAccount(running.url) : filesAccount(running.url));
  return { ...running, databaseUrl };
}

/** What was started, to be stopped whatever becomes of its bench. */
const started: Running[] = [];
const wants = (name: string) => !only || only === name;

try {
  if (wants('pages')) for (const measure of pageWeights()) print(measure);
  if (wants('kits')) for (const measure of planLargeKit()) print(measure);
  if (wants('testing')) for (const measure of testsOfLarge()) print(measure);
  if (wants('demo') || wants('kits')) {
    const scenario = join(home, 'scenario.json');
    writeFileSync(scenario, JSON.stringify(demoScenario()));
    const began = performance.now();
    const quayside = await startQuayside({
      databaseUrl: await cluster.database('quayside'),
      scenario,
      days: 90,
    });
    const lived = (performance.now() - began) / 1000;
    const memory = memoryOf(quayside.child.pid!);
    print({
      name: 'quayside-90-days',
      value: lived,
      unit: 's',
      reference: '90 s',
      ratio: lived / 90,
      aim: 'under 90 s',
    });
    print({
      name: 'quayside-memory',
      value: memory,
      unit: 'MiB',
      reference: '1.5 GiB',
      ratio: memory / 1536,
      aim: 'under 1.5 GiB',
    });
    const app = await application('demo', { QUAYSIDE_URL: quayside.url });
    const { jobId } = await callApi<{ jobId: string }>(app.url, 'POST', '/api/1/fetch', {});
    await waitForJob(app.url, jobId);
    print(await largeKitOnSheet(app.url));
    const times: number[] = [];
    for (const to of ['2026-11-16', '2026-11-15', '2026-11-14', '2026-11-13', '2026-11-12']) {
      const start = performance.now();
      await callApi(app.url, 'GET', `/api/1/round?from=2026-10-18&to=${to}`);
      times.push((performance.now() - start) / 1000);
    }
    const median = times.sort((a, b) => a - b)[2]!;
    print({
      name: 'findings-demo',
      value: median,
      unit: 's',
      reference: '2 s',
      ratio: median / 2,
      aim: 'under 2 s',
    });
    if (wants('demo')) for (const measure of await todayOfDemo(app.url)) print(measure);
    if (wants('demo')) (await sixtyNights(app.url)).forEach(print);
    if (wants('demo')) for await (const measure of manyReaders(app)) print(measure);
    await app.stop();
    await quayside.stop();
  }
  if (wants('load')) {
    const app = await application('load');
    print(await smallCopies(app.databaseUrl));
    for (const measure of await loadMillion(app, home)) print(measure);
    await app.stop();
  }
  if (wants('big')) {
    const app = await application('big');
    await bigAccount(app.databaseUrl);
    for (const measure of await judgeBig(app)) print(measure);
    for (const measure of await scrollFindings(app)) print(measure);
    await app.stop();
  }
  if (wants('goals')) {
    const app = await application('goals');
    await bigAccount(app.databaseUrl);
    for (const measure of await goalsOfLarge(app)) print(measure);
    await app.stop();
  }
  if (wants('placements')) {
    const app = await application('placements');
    await bigAccount(app.databaseUrl);
    for (const measure of await placementsOfLarge(app)) print(measure);
    await app.stop();
  }
  if (wants('today')) {
    for (const measure of splitOfMany()) print(measure);
    const app = await application('today');
    await bigAccount(app.databaseUrl);
    for (const measure of await todayOfLarge(app)) print(measure);
    await app.stop();
  }
  if (wants('organic')) {
    const app = await application('organic');
    await bigAccount(app.databaseUrl);
    for (const measure of await organicOfLarge(app)) print(measure);
    await app.stop();
  }
  if (wants('routines')) {
    const app = await application('routines');
    await bigAccount(app.databaseUrl);
    for (const measure of await nightOfMany(app)) print(measure);
    await app.stop();
  }
  if (wants('accounts')) {
    for (const measure of await manyAccounts(application, bigAccount)) print(measure);
  }
  if (wants('sheet')) {
    const quayside = await startQuayside({
      databaseUrl: await cluster.database('large-quayside'),
      scenario: largeScenario(home),
      days: 1,
    });
    started.push(quayside);
    const app = await application('sheet', { QUAYSIDE_URL: quayside.url });
    for await (const measure of largeSheet(app)) print(measure);
    await app.stop();
    await quayside.stop();
  }
  if (wants('terms')) {
    for (const measure of coverageOfMillion()) print(measure);
    const app = await application('terms');
    await bigAccount(app.databaseUrl);
    await wordyTerms(app.databaseUrl);
    for (const measure of await wordsOfMillion(app)) print(measure);
    await app.stop();
  }
  if (wants('explore')) {
    const times = new Map<string, number>();
    for (const million of [1, 10]) {
      const app = await application(`explore${million}`);
      await exploreAccount(app.databaseUrl, million);
      for await (const measure of exploreTables(app, million, home, times)) print(measure);
      await app.stop();
    }
  }
} finally {
  for (const running of started) await running.stop().catch(() => undefined);
  await cluster.stop();
  rmSync(home, { recursive: true, force: true });
}
