import { sheetWithEffect } from '../../../../server/changes/index.ts';
import { reads } from '../../../../server/http.ts';

/** A sheet with its lines, and before and after on settled days once there are some. */
export const GET = reads(({ accountId, context }) =>
  sheetWithEffect(accountId, Number(context.params.id) || 0),
);
