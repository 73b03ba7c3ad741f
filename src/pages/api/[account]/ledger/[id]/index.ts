import { sheetWithCounts } from '../../../../../server/changes/index.ts';
import { numberIn, readsKept } from '../../../../../server/http/http.ts';

/** A sheet in figures, and over which settled days it is compared once there are some. */
export const GET = readsKept(({ accountId, context }) =>
  sheetWithCounts(accountId, numberIn(context, 'id', 'sheet')),
);
