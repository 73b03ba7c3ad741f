import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { stripVTControlCharacters } from 'node:util';
import { build } from './lib/build.ts';
import { runChecks } from './lib/checks.ts';
import { passing, refuseIfUsed, startCluster } from './lib/cluster.ts';
import { chromiumPath } from './lib/packages.ts';
import { root } from './lib/processes.ts';
import { seed } from './lib/seed.ts';

// Checks, unit and server tests, end-to-end tests; on a cluster of their own that is removed afterwards.
// npm test -- --only=unit|e2e, and what follows goes to the runner.

const only = process.argv.find((argument) => argument.startsWith('--only='))?.slice(7);
const rest = process.argv.slice(2).filter((argument) => !argument.startsWith('--only='));
const home = join(root, '.data/test');
const env: NodeJS.ProcessEnv = { ...process.env };
let failedChecks = 0;

function step(name: string, command: string, args: string[]): boolean {
  process.stdout.write(`\n== ${name}\n`);
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', env });
  return result.status === 0;
}

interface Counts {
  passed: number;
  failed: number;
}

/** Failed tests with the first line of why, told again at the end: the rest may be far above. */
const failures: string[] = [];
const firstLine = (text: string): string => stripVTControlCharacters(text).trim().split('\n')[0]!;

function vitestCounts(file: string): Counts {
  try {
    const report = JSON.parse(readFileSync(file, 'utf8')) as {
      numPassedTests: number;
      numFailedTests: number;
      numFailedTestSuites: number;
      testResults: {
        name: string;
        message: string;
        assertionResults: { fullName: string; status: string; failureMessages: string[] }[];
      }[];
    };
    for (const { name, message, assertionResults } of report.testResults) {
      const path = relative(root, name);
      if (message) failures.push(`${path}: ${firstLine(message)}`);
      for (const { fullName, status, failureMessages } of assertionResults)
        if (status === 'failed')
          failures.push(`${path} › ${fullName}: ${firstLine(failureMessages[0] ?? '')}`);
    }
    const failed = report.numFailedTests || report.numFailedTestSuites;
    return { passed: report.numPassedTests, failed };
  } catch {
    return { passed: 0, failed: 1 };
  }
}

function playwrightCounts(file: string): Counts {
  try {
    const { stats, errors } = JSON.parse(readFileSync(file, 'utf8')) as {
      stats: { expected: number; unexpected: number; flaky: number };
      errors: unknown[];
    };
    return { passed: stats.expected + stats.flaky, failed: stats.unexpected + (errors.length > 0 ? 1 : 0) };
  } catch {
    return { passed: 0, failed: 1 };
  }
}

const counts: Counts = { passed: 0, failed: 0 };
const add = (more: Counts) => {
  counts.passed += more.passed;
  counts.failed += more.failed;
};

refuseIfUsed(home);
rmSync(home, { recursive: true, force: true });
mkdirSync(home, { recursive: true });
const cluster = await startCluster(home, undefined, passing);
const stop = async () => {
  await cluster.stop();
  rmSync(home, { recursive: true, force: true });
  rmSync(join(root, '.data/test-files'), { recursive: true, force: true });
};
for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.once(signal, () => void stop().then(() => process.exit(1)));
}
try {
  process.stdout.write('\n== Building, and living 90 days at the marketplace\n');
  const built = build();
  const living = seed(home, cluster.database, built);
  // Whichever fails is heard of where it is waited for.
  living.catch(() => undefined);
  await built;
  // Checks read what is written, and nothing that runs: they go on while the marketplace lives.
  const checking = only ? Promise.resolve(0) : runChecks();
  env.MOWING_TEST_SERVER = await cluster.database('postgres');
  env.MOWING_TEST_SCENARIO = await living;
  env.CHROMIUM = chromiumPath();
  failedChecks = await checking;
  if (only !== 'e2e') {
    const report = join(home, 'vitest.json');
    step('Unit and server tests', 'npx', [
      '--no-install',
      'vitest',
      'run',
      '--reporter=default',
      '--reporter=json',
      `--outputFile=${report}`,
      ...(only ? rest : []),
    ]);
    add(vitestCounts(report));
  }
  if (only !== 'unit') {
    const report = join(home, 'playwright.json');
    env.PLAYWRIGHT_JSON_OUTPUT_NAME = report;
    step('End-to-end tests', 'npx', [
      '--no-install',
      'playwright',
      'test',
      '--reporter=list,json',
      ...(only ? rest : []),
    ]);
    add(playwrightCounts(report));
  }
} catch (error) {
  process.stderr.write(`${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
  counts.failed++;
} finally {
  await stop();
}
for (const failure of failures) process.stdout.write(`failed: ${failure}\n`);
if (failedChecks > 0) process.stdout.write(`\n${failedChecks} checks failed (see above)\n`);
process.stdout.write(`\n${counts.passed} passed, ${counts.failed + failedChecks} failed\n`);
process.exitCode = counts.failed + failedChecks > 0 ? 1 : 0;
