import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { tableSchemas } from '../src/server/exports/schemas.ts';
import { root } from './lib/processes.ts';

// Writes docs/formats from what the importer knows.
mkdirSync(join(root, 'docs/formats'), { recursive: true });
for (const [name, schema] of Object.entries(tableSchemas())) {
  writeFileSync(join(root, 'docs/formats', name), `${JSON.stringify(schema, null, 2)}\n`);
}
