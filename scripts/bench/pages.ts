import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import type { Measure } from './measure.ts';
import { root } from '../lib/processes.ts';

const folder = join(root, 'dist/client/_astro');

/** A script and all that it imports, by name. */
function withImports(name: string, seen = new Set<string>()): Set<string> {
  if (seen.has(name)) return seen;
  seen.add(name);
  const text = readFileSync(join(folder, name), 'utf8');
  for (const [, file] of text.matchAll(/(?:from|import)\s*["']\.\/([^"']+\.js)["']/g))
    withImports(file!, seen);
  return seen;
}

/** The JavaScript of a page, compressed: its view, React's client, and what both import. */
export function pageWeights(): Measure[] {
  const scripts = readdirSync(folder).filter((name) => name.endsWith('.js'));
  const starting = (name: string) => scripts.find((script) => script.startsWith(name))!;
  return (
    [
      ['Round', 300],
      ['Explore', 350],
    ] as const
  ).map(([page, most]) => {
    const files = new Set([...withImports(starting(`${page}View`)), ...withImports(starting('client'))]);
    const bytes = [...files].reduce(
      (sum, name) => sum + gzipSync(readFileSync(join(folder, name))).length,
      0,
    );
    return {
      name: `javascript-${page.toLowerCase()}`,
      value: bytes / 1000,
      unit: 'kB compressed',
      reference: `${most} kB`,
      ratio: bytes / 1000 / most,
      aim: `under ${most} kB`,
    };
  });
}
