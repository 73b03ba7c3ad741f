import { spawn } from 'node:child_process';
import { root } from './processes.ts';

/** What is checked without running anything: name, command of a package, its arguments. */
const checks: readonly [name: string, args: string[]][] = [
  ['Pages and types', ['astro', 'check', '--silent', '--minimumFailingSeverity=warning']],
  ['Format', ['prettier', '--check', '--log-level=warn', '.']],
  ['Lint', ['eslint', '.', '--max-warnings=0']],
  ['Doors', ['depcruise', 'src', 'market', 'demo', 'scripts', 'lab', '--config', '.dependency-cruiser.cjs']],
  ['Folders', ['depcruise', 'src', '--config', '.dependency-cruiser-folders.cjs']],
  ['What nobody uses', ['knip', '--no-progress']],
];

/** Runs a command of a package; what it says is told in one piece once it has ended. */
function check(name: string, args: string[]): Promise<boolean> {
  return new Promise((resolve) => {
    const child = spawn('npx', ['--no-install', ...args], { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
    const said: Buffer[] = [];
    child.stdout.on('data', (part: Buffer) => said.push(part));
    child.stderr.on('data', (part: Buffer) => said.push(part));
    child.once('close', (status) => {
      process.stdout.write(`== ${name}: ${status === 0 ? 'passed' : 'FAILED'}\n`);
      if (status !== 0) process.stdout.write(Buffer.concat(said));
      resolve(status === 0);
    });
  });
}

/** Runs all checks, two at once; how many failed. */
export async function runChecks(): Promise<number> {
  // The types of pages are made first: the others read them.
  let failed = (await check('Types of pages', ['astro', 'sync', '--silent'])) ? 0 : 1;
  const left = [...checks];
  const work = async () => {
    for (let next = left.shift(); next; next = left.shift()) if (!(await check(...next))) failed++;
  };
  await Promise.all([work(), work()]);
  return failed;
}
