import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, statSync, openSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { setTimeout as sleep } from 'node:timers/promises';
import postgres from 'postgres';
import { postgresBin } from './packages.ts';

export interface Cluster {
  /** Address of a database of this cluster; the database is made when it is missing. */
  database: (name: string) => Promise<string>;
  stop: () => Promise<void>;
}

/** A port that nobody listens at, below those that calls go out from: it stays free while a server is started again. */
export async function freePort(): Promise<number> {
  for (;;) {
    const port = 20_000 + Math.floor(Math.random() * 12_000);
    const server = createServer();
    const free = await new Promise<boolean>((done) => {
      server.once('error', () => done(false));
      server.listen(port, '127.0.0.1', () => done(true));
    });
    if (!free) continue;
    await new Promise((done) => server.close(done));
    return port;
  }
}

async function makeDatabase(server: string, name: string): Promise<string> {
  const url = new URL(server);
  const sql = postgres(url.href, { max: 1, onnotice: () => undefined });
  try {
    const [known] = await sql`select 1 from pg_database where datname = ${name}`;
    if (!known) await sql`create database ${sql(name)}`;
  } finally {
    await sql.end();
  }
  url.pathname = `/${name}`;
  return url.href;
}

/** Postgres refuses to run as root: root runs it as the postgres user. */
const asPostgres = (): string[] =>
  process.getuid?.() === 0 ? ['setpriv', '--reuid=postgres', '--regid=postgres', '--init-groups'] : [];

/** The cluster's folder, at a place its owner can reach. */
function place(dir: string): string {
  mkdirSync(dir, { recursive: true });
  const prefix = asPostgres();
  if (prefix.length === 0) return dir;
  const reach = spawnSync(prefix[0]!, [...prefix.slice(1), 'test', '-x', dir]);
  const home =
    reach.status === 0 ? dir : `/var/tmp/mowing-${createHash('sha1').update(dir).digest('hex').slice(0, 12)}`;
  mkdirSync(home, { recursive: true });
  spawnSync('chown', ['postgres:postgres', home]);
  return home;
}

/** True while the process that started the cluster lives; its number may since have gone to another program. */
function isOurs(pid: number): boolean {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('node');
  } catch {
    return false;
  }
}

/** Throws while another process runs a cluster with its data under `dir`. */
export function refuseIfUsed(dir: string): void {
  const file = `${place(dir)}/owner.pid`;
  const owner = existsSync(file) ? Number(readFileSync(file, 'utf8')) : 0;
  if (owner > 0 && owner !== process.pid && isOurs(owner)) {
    throw new Error(
      `${dir} is in use by process ${owner}. Stop it first, or choose another folder for this start.`,
    );
  }
}

/** Stops what a start that fell left behind. */
function stopLeftOver(data: string): void {
  const file = `${data}/postmaster.pid`;
  if (!existsSync(file)) return;
  const pid = Number(readFileSync(file, 'utf8').split('\n')[0]);
  try {
    process.kill(pid, 'SIGINT');
  } catch {
    rmSync(file, { force: true });
    return;
  }
  for (let i = 0; i < 100 && existsSync(file); i++) spawnSync('sleep', ['0.1']);
}

/** For data that nobody would miss after a power cut: nothing waits for the disk. What is committed survives any kill. */
export const passing = { fsync: 'off', full_page_writes: 'off' };

/**
 * Starts a private cluster on loopback, on a free port, with its data under `dir`. DATABASE_URL set: uses that.
 *
 * @param more Settings of Postgres beside the usual ones.
 */
export async function startCluster(
  dir: string,
  wantedPort?: number,
  more: Record<string, string> = {},
): Promise<Cluster> {
  const given = process.env.DATABASE_URL;
  if (given) {
    return { database: (name) => makeDatabase(given, name), stop: () => Promise.resolve() };
  }
  const bin = postgresBin();
  const prefix = asPostgres();
  const home = place(dir);
  const data = `${home}/pg`;
  const run = (command: string, args: string[]) => {
    const all = [...prefix, `${bin}/${command}`, ...args];
    const result = spawnSync(all[0]!, all.slice(1), { encoding: 'utf8', cwd: home });
    if (result.status !== 0) throw new Error(`${command} failed: ${result.stderr || result.stdout}`);
  };
  const ownerFile = `${home}/owner.pid`;
  refuseIfUsed(dir);
  writeFileSync(ownerFile, String(process.pid));
  stopLeftOver(data);
  if (!existsSync(`${data}/PG_VERSION`)) {
    const args = ['-D', data, '-U', 'mowing', '--auth=trust', '--encoding=UTF8', '--locale=C.UTF-8', '-N'];
    run('initdb', args);
  }
  const port = wantedPort ?? (await freePort());
  const settings = {
    listen_addresses: '127.0.0.1',
    port: String(port),
    unix_socket_directories: '',
    shared_buffers: '512MB',
    work_mem: '64MB',
    maintenance_work_mem: '256MB',
    max_wal_size: '4GB',
    synchronous_commit: 'on',
    jit: 'off',
    max_connections: '150',
    ...more,
  };
  const args = Object.entries(settings).flatMap(([name, value]) => ['-c', `${name}=${value}`]);
  const all = [...prefix, `${bin}/postgres`, '-D', data, ...args];
  const log = openSync(`${home}/postgres.log`, 'a');
  const server = spawn(all[0]!, all.slice(1), { stdio: ['ignore', log, log], detached: true, cwd: home });
  const ended = new Promise<void>((done) => server.once('exit', () => done()));
  const base = `postgres://mowing@127.0.0.1:${port}/postgres`;
  for (let tries = 0; ; tries++) {
    const sql = postgres(base, { max: 1, connect_timeout: 2, onnotice: () => undefined });
    try {
      await sql`select 1`;
      break;
    } catch (error) {
      if (server.exitCode !== null || tries > 150) {
        throw new Error(`Postgres did not start, see ${home}/postgres.log`, { cause: error });
      }
      await sleep(100);
    } finally {
      await sql.end({ timeout: 1 });
    }
  }
  return {
    database: (name) => makeDatabase(base, name),
    stop: async () => {
      if (server.exitCode !== null) return;
      server.kill('SIGINT');
      await ended;
      rmSync(ownerFile, { force: true });
    },
  };
}

/** The cluster of a folder: the one that runs there, else one that is started and ends with `stop`. */
export async function openCluster(dir: string): Promise<Cluster> {
  try {
    refuseIfUsed(dir);
  } catch {
    const port = readFileSync(`${place(dir)}/pg/postmaster.pid`, 'utf8').split('\n')[3];
    const base = `postgres://mowing@127.0.0.1:${port}/postgres`;
    return { database: (name) => makeDatabase(base, name), stop: () => Promise.resolve() };
  }
  return startCluster(dir);
}

/** True when the folder exists and holds something newer than `than` (milliseconds since 1970). */
export const newerThan = (path: string, than: number): boolean =>
  existsSync(path) && statSync(path).mtimeMs > than;
