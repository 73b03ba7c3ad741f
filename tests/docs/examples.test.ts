import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';

/** Examples in the comments of core are run: `@example acos({ spend: 26, sales: 100 }) // 0.26`. */

const core = new URL('../../src/core', import.meta.url).pathname;

const examples = readdirSync(core, { recursive: true, encoding: 'utf8' })
  .filter((path) => path.endsWith('.ts') && !path.endsWith('.test.ts'))
  .flatMap((path) =>
    readFileSync(join(core, path), 'utf8')
      .split('\n')
      .flatMap((line, at) => {
        const told = /@example (.+)$/.exec(line)?.[1];
        return told === undefined ? [] : [{ path, line: at + 1, told }];
      }),
  );

describe('examples in comments', () => {
  test('stand where numbers help', () => {
    expect(examples.length).toBeGreaterThan(35);
    expect(new Set(examples.map(({ path }) => path.split('/')[0])).size).toBeGreaterThan(5);
  });

  test.each(examples)('$path:$line $told', async ({ path, told }) => {
    const [expression, value] = told.split(' // ') as [string, string | undefined];
    expect(value, 'says what comes of it: EXPRESSION // VALUE').toBeDefined();
    const module = (await import(join(core, path))) as Record<string, unknown>;
    const run = (text: string): unknown =>
      (new Function(...Object.keys(module), `return (${text});`) as (...all: unknown[]) => unknown)(
        ...Object.values(module),
      );
    const [found, wanted] = [run(expression), run(value!)];
    if (typeof wanted === 'number' && Number.isFinite(wanted)) expect(found).toBeCloseTo(wanted, 9);
    else expect(found).toEqual(wanted);
  });
});
