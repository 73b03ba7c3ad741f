import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { tableSchemas } from './schemas.ts';

test.each(Object.entries(tableSchemas()))(
  'docs/formats/%s says what the importer does (npm run formats)',
  (name, schema) => {
    const shipped = JSON.parse(
      readFileSync(new URL(`../../../docs/formats/${name}`, import.meta.url), 'utf8'),
    ) as object;
    expect(shipped).toEqual(schema);
  },
);
