import { join } from 'node:path';
import { build as bundle } from 'esbuild';
import { newerThan } from './cluster.ts';
import { newest } from './market.ts';
import { root, run } from './processes.ts';

/** Bundles what runs outside Astro's build: the workers of the account in memory and of files, and the process that listens. */
async function bundleOwn(): Promise<void> {
  await bundle({
    entryPoints: {
      'workers/explore': join(root, 'src/server/engine/worker.ts'),
      'workers/files': join(root, 'src/server/imports/files.worker.ts'),
      serve: join(root, 'src/server/start/serve.ts'),
    },
    outdir: join(root, 'dist'),
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
  if (newerThan(join(root, 'dist/serve.mjs'), Math.max(...sources))) return;
  await run('npx', ['astro', 'build', '--silent']);
  await bundleOwn();
}
