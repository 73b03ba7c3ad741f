import Joi from 'joi';
import { numberIn, readsKept, writes } from '../../../../../server/http/http.ts';
import { removeReport, reportOf, setReportWords, wordsSchema } from '../../../../../server/today/index.ts';

/** A report with its figures, its words, and its page. */
export const GET = readsKept(({ accountId, context }) =>
  reportOf(accountId, numberIn(context, 'id', 'report')),
);

/** Writes its words; one that was removed comes back by it. */
export const PUT = writes(wordsSchema, ({ accountId, context, body: { words } }) =>
  setReportWords(accountId, numberIn(context, 'id', 'report'), words),
);

export const DELETE = writes(Joi.object({}), ({ accountId, context }) =>
  removeReport(accountId, numberIn(context, 'id', 'report')),
);
