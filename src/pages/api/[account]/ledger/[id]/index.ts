import { sheetWithEffect } from '../../../../../server/changes/index.ts';
import { numberIn, reads } from '../../../../../server/http.ts';

/** A sheet with its lines, and before and after on settled days once there are some. */
export const GET = reads(({ accountId, context }) =>
  sheetWithEffect(accountId, numberIn(context, 'id', 'sheet')),
);
