import { readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { build as bundle } from 'esbuild';
import { newerThan } from './cluster.ts';
import { root, run } from './processes.ts';

const newest = (path: string): number => {
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  return Math.max(...readdirSync(path).map((name) => newest(join(path, name))), 0);
};

/** Bundles the workers of judging, of Explore and of files: they run in threads of their own, outside Astro's build. */
async function bundleWorkers(): Promise<void> {
  await bundle({
    entryPoints: {
      judge: join(root, 'src/server/round/worker.ts'),
      explore: join(root, 'src/server/explore/worker.ts'),
      files: join(root, 'src/server/imports/files.worker.ts'),
    },
    outdir: join(root, 'dist/workers'),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    external: ['postgres'],
    banner: { js: "import { createRequire as cr } from 'node:module'; const require = cr(import.meta.url);" },
    logLevel: 'warning',
  });
}

/** Builds the application unless what is built is newer than every source. */
export async function build(): Promise<void> {
  const sources = ['src', 'astro.config.mjs', 'package-lock.json'].map((name) => newest(join(root, name)));
  if (newerThan(join(root, 'dist/workers/judge.mjs'), Math.max(...sources))) return;
  run('npx', ['astro', 'build', '--silent']);
  await bundleWorkers();
}
