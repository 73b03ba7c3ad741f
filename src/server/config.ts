import { existsSync } from 'node:fs';
import { resolve } from 'node:path';

/** All configuration, from the environment. One line each. */
export const config = {
  /** Where the application listens; loopback only until there is sign-in. */
  host: process.env.HOST ?? '127.0.0.1',
  port: Number(process.env.PORT ?? 4321),
  /** Address of Mowing's own Postgres database. */
  databaseUrl: process.env.MOWING_DATABASE_URL ?? 'postgres://mowing@127.0.0.1:5432/mowing',
  /** Folder for uploaded files and rejected rows. */
  dataDir: resolve(process.env.MOWING_DATA_DIR ?? '.data/files'),
  /** Address and secret of the marketplace; no address: files only. */
  quaysideUrl: process.env.QUAYSIDE_URL ?? '',
  quaysideSecret: process.env.QUAYSIDE_SECRET ?? 'quayside-demo',
  /** The demo may let time pass at the marketplace. */
  demo: process.env.MOWING_DEMO === '1',
  /** Where the bundled worker lies that keeps accounts in memory. */
  exploreWorker: resolve(process.env.MOWING_EXPLORE_WORKER ?? 'dist/workers/explore.mjs'),
  /** Where the bundled worker that reads files lies. */
  filesWorker: resolve(process.env.MOWING_FILES_WORKER ?? 'dist/workers/files.mjs'),
  /** Memory of a thread that loads a file, in MB; one that looks at a file has less than half of it. */
  fileMemory: Number(process.env.MOWING_FILE_MEMORY ?? 1536),
  /** How long a question to the account in memory, or the judging of a window, may take. */
  engineSeconds: Number(process.env.MOWING_ENGINE_SECONDS ?? 180),
  /** The browser that prints reports as PDF; without one they are printed by the reader's own. */
  chromium:
    process.env.CHROMIUM ?? ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find(existsSync) ?? '',
  migrations: resolve(process.env.MOWING_MIGRATIONS ?? 'src/server/db/migrations'),
  /** Lines per batch sent to the marketplace (at most what it takes). */
  batchLines: Number(process.env.MOWING_BATCH_LINES ?? 100),
  logLevel: process.env.MOWING_LOG ?? 'warn',
};
