import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';

/** Comments point into docs/domain.md: what they point at is there. */

const root = new URL('../..', import.meta.url).pathname;
const headings = new Set(
  readFileSync(join(root, 'docs/domain.md'), 'utf8')
    .split('\n')
    .flatMap((line) => /^##+ (\d+(?:\.\d+)?)/.exec(line)?.[1] ?? []),
);

const filesIn = (folder: string): string[] =>
  readdirSync(join(root, folder)).flatMap((name) => {
    const path = join(folder, name);
    return statSync(join(root, path)).isDirectory() ? filesIn(path) : /\.tsx?$/.test(name) ? [path] : [];
  });

const citations = ['src', 'lab', 'market', 'scripts'].flatMap(filesIn).flatMap((path) =>
  [...readFileSync(join(root, path), 'utf8').matchAll(/domain, sections? ([\d.]+\d|\d)(?: and ([\d.]+\d|\d))?/g)].flatMap(
    ([, one, other]) => [one!, ...(other ? [other] : [])].map((section) => ({ path, section })),
  ),
);

test('every section that a comment cites is a heading of the domain', () => {
  expect(headings.size).toBeGreaterThan(20);
  expect(citations.length).toBeGreaterThan(40);
  expect(citations.filter(({ section }) => !headings.has(section))).toEqual([]);
});

test('no comment cites a guide that is not here', () => {
  const elsewhere = ['src', 'lab', 'market', 'scripts']
    .flatMap(filesIn)
    .filter((path) => /guide, section/.test(readFileSync(join(root, path), 'utf8')));
  expect(elsewhere).toEqual([]);
});
