import Joi from 'joi';
import { cellFigures, type CellFigure } from '../../../../../core/explore/crosstab.ts';
import { tableFormats, type TableFormat } from '../../../../../server/exports/index.ts';
import { crossTabKeys, type CrossTabCall, exportCrossTab } from '../../../../../server/explore/index.ts';
import { asks } from '../../../../../server/http/http.ts';

const schema = Joi.object<CrossTabCall & { figures: CellFigure[]; format: TableFormat }>({
  ...crossTabKeys,
  figures: Joi.array()
    .items(Joi.string().valid(...Object.keys(cellFigures)))
    .min(1)
    .max(6)
    .required(),
  format: Joi.string()
    .valid(...tableFormats)
    .required(),
});

/** A cross-tab as a file. */
export const POST = asks(schema, ({ accountId, body: { figures, format, ...body } }) =>
  exportCrossTab(accountId, body, body, figures, format),
);
