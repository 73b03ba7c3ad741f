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

/** The Table Schema (Frictionless) of each file kind, by file name under docs/formats. */
export function tableSchemas(): Record<string, object> {
  const schema = (kind: FileKind) => ({
    fields: fileKinds[kind].columns.map(({ name, type, required }) => ({
      name,
      type: types[type],
      ...(required ? { constraints: { required: true } } : {}),
    })),
    missingValues: ['', '-'],
  });
  return Object.fromEntries(fileKindNames.map((kind) => [`${kind}.json`, schema(kind)]));
}
