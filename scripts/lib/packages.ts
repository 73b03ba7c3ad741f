import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';

/** Installs a Debian package when we may, else says the exact command. */
export function installDebian(name: string): void {
  if (process.getuid?.() !== 0) {
    throw new Error(`Debian's package ${name} is missing. Install it with: sudo apt-get install -y ${name}`);
  }
  process.stderr.write(`Installing Debian's ${name}\n`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const run = (args: string[]) => spawnSync('apt-get', args, { stdio: ['ignore', 'ignore', 'inherit'], env });
  run(['update', '-qq']);
  const result = run(['install', '-y', '-qq', name]);
  if (result.status !== 0) throw new Error(`apt-get install ${name} failed (exit ${result.status}).`);
}

/** The folder with initdb and postgres, of the newest version that Debian put there. */
export function postgresBin(): string {
  const home = '/usr/lib/postgresql';
  const find = () =>
    existsSync(home)
      ? readdirSync(home)
          .filter((version) => existsSync(`${home}/${version}/bin/initdb`))
          .sort((a, b) => Number(b) - Number(a))[0]
      : undefined;
  if (!find()) installDebian('postgresql');
  const version = find();
  if (!version) throw new Error(`No PostgreSQL server under ${home}.`);
  return `${home}/${version}/bin`;
}

/** Runs one of Postgres's own programs to its end; throws what it said when it failed. */
export function runTool(name: string, args: string[]): void {
  const { status, stderr } = spawnSync(`${postgresBin()}/${name}`, args, { encoding: 'utf8' });
  if (status !== 0) throw new Error(`${name} failed: ${stderr.trim()}`);
}

/**
 * Debian's Chromium: its build without a window where it is to be had, since that draws a page with a third less work,
 * else the whole one.
 */
export function chromiumPath(): string {
  const paths = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'];
  const here = () => paths.find((path) => existsSync(path));
  if (!here()) {
    try {
      installDebian('chromium-headless-shell');
    } catch {
      installDebian('chromium');
    }
  }
  return here()!;
}

/** How Chromium is started here: as root, without a display, without calls of its own. */
export const chromiumFlags = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];
