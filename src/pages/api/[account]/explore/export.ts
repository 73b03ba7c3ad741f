import Joi from 'joi';
import { tableKeys, exportTable, type TableRequest } from '../../../../server/explore/index.ts';
import { tableFormats, type TableFormat } from '../../../../server/exports/index.ts';
import { asks } from '../../../../server/http/http.ts';

const schema = Joi.object<TableRequest & { format: TableFormat }>({
  ...tableKeys,
  format: Joi.string()
    .valid(...tableFormats)
    .default('csv'),
});

/** All rows that match as a file: CSV, XLSX or JSON Lines, columns and order as asked for. */
export const POST = asks(schema, ({ accountId, body: { format, ...request } }) =>
  exportTable(accountId, request, format),
);
