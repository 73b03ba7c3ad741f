import { readdirSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { build } from 'esbuild';
import { newerThan } from './cluster.ts';

/** When the youngest file of a folder was written, or a file; milliseconds since 1970. */
export function newest(path: string): number {
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  return Math.max(...readdirSync(path).map((name) => newest(join(path, name))), 0);
}

/**
 * The path of Quayside as one file, bundled unless it is newer than every source: every test starts one, and Node reads
 * TypeScript through a loader that takes longer than all of Quayside's own start.
 */
export async function marketProgram(folder: string): Promise<string> {
  const program = join(folder, 'dist/main.mjs');
  const sources = ['main.ts', 'scenario.ts', 'api', 'world'].map((name) => newest(join(folder, name)));
  if (newerThan(program, Math.max(...sources))) return program;
  const { outputFiles } = await build({
    entryPoints: [join(folder, 'main.ts')],
    bundle: true,
    write: false,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    logLevel: 'warning',
  });
  await mkdir(join(folder, 'dist'), { recursive: true });
  // Whole, or not there: another process may be starting it.
  const draft = `${program}.${process.pid}`;
  writeFileSync(draft, outputFiles[0]!.contents);
  renameSync(draft, program);
  return program;
}
