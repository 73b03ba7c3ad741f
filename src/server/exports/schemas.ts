import { fileKinds, loadableKinds, type ColumnType, type FileKind } from '../imports/kinds.ts';
import { sheetColumns } from './sheet.ts';

const types: Record<ColumnType, string> = {
  date: 'date',
  count: 'integer',
  money: 'number',
  share: 'number',
  text: 'string',
};

/** The Table Schema (Frictionless) of each file kind, by file name under docs/formats. */
export function tableSchemas(): Record<string, object> {
  const schema = (kind: FileKind) => ({
    fields: fileKinds[kind].map(({ name, type, required }) => ({
      name,
      type: types[type],
      ...(required ? { constraints: { required: true } } : {}),
    })),
    missingValues: ['', '-'],
  });
  const incoming = Object.fromEntries(loadableKinds.map((kind) => [`${kind}.json`, schema(kind)]));
  return {
    ...incoming,
    'changes.json': { fields: sheetColumns.map((name) => ({ name, type: 'string' })), missingValues: [''] },
  };
}
