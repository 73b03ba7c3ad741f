import Joi from 'joi';
import { tableFormats, type TableFormat } from '../../../../server/exports/table.ts';
import { check, reads } from '../../../../server/http/http.ts';
import { exportItems, itemsWanted } from '../../../../server/routines/index.ts';

const format = Joi.string<TableFormat>()
  .valid(...tableFormats)
  .default('csv');

/** The log as a file; what is asked for as of the log itself. */
export const GET = reads(({ accountId, query }) =>
  Promise.resolve(
    exportItems(accountId, itemsWanted(query), check<TableFormat>(format, query.get('format') ?? undefined)),
  ),
);
