import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { explainOf } from '../../src/core/metrics/explains.ts';

const root = new URL('../../src', import.meta.url).pathname;

/** Names of figures that screens say they explain, with the files that do. */
function named(): [string, string][] {
  const files = ['views', 'ui'].flatMap((room) =>
    readdirSync(join(root, room), { recursive: true, encoding: 'utf8' })
      .filter((path) => path.endsWith('.tsx'))
      .map((path) => join(room, path)),
  );
  const pattern = /(?:<Figure\s+name=|<Explanation\s[^>]*?name=|\bexplains=|\bexplains: )["']([a-z_]+)["']/g;
  return files.flatMap((path) =>
    [...readFileSync(join(root, path), 'utf8').matchAll(pattern)].map(([, name]): [string, string] => [
      name!,
      path,
    ]),
  );
}

describe('figures on screens', () => {
  const names = named();
  test('are many, in every place', () => {
    const places = new Set(names.map(([, path]) => path.split('/').slice(0, 2).join('/')));
    for (const place of ['views/round', 'views/explore', 'views/lanes', 'views/ledger', 'views/goals'])
      expect(places).toContain(place);
    expect(names.length).toBeGreaterThan(25);
  });

  test.each(names)('%s explains itself (%s)', (name) => {
    const { what, how, not } = explainOf(name)!;
    expect(what.length).toBeGreaterThan(10);
    for (const text of [what, how, not]) if (text !== undefined) expect(text).toMatch(/\.$/);
  });
});
