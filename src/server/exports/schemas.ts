import type { ColumnType, FileKind } from '../../answers/imports.ts';
import { fileKindNames, fileKinds } from '../imports/kinds/index.ts';

const types: Record<ColumnType, string> = {
  date: 'date',
  count: 'integer',
  money: 'number',
  percent: 'number',
  share: 'number',
  number: 'number',
  text: 'string',
};

/** Of an hour of the week, as server/hours reads and writes it. */
const schedules = {
  fields: [
    { name: 'campaign', type: 'string' },
    { name: 'campaign_id', type: 'string' },
    { name: 'weekday', type: 'integer', constraints: { required: true, minimum: 1, maximum: 7 } },
    { name: 'hour', type: 'integer', constraints: { required: true, minimum: 0, maximum: 23 } },
    { name: 'multiplier', type: 'number', constraints: { required: true, minimum: 0, maximum: 9.99 } },
  ],
  missingValues: [''],
};

/** The Table Schema (Frictionless) of each file kind and of schedules, by file name under docs/formats. */
export function tableSchemas(): Record<string, object> {
  const schema = (kind: FileKind) => ({
    fields: fileKinds[kind].columns.map(({ name, type, required }) => ({
      name,
      type: types[type],
      ...(required ? { constraints: { required: true } } : {}),
    })),
    missingValues: ['', '-'],
  });
  return {
    ...Object.fromEntries(fileKindNames.map((kind) => [`${kind}.json`, schema(kind)])),
    'schedules.json': schedules,
  };
}
