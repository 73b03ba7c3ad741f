import { column } from '../files/columns.ts';
import { checkSpan } from '../staging/spans.ts';
import { FactLoad } from '../staging/fact-load.ts';
import { openSummary } from '../staging/summaries.ts';
import type { Kind } from './kind.ts';
import { figures, target } from './shared.ts';

/** What each search term did on each day at the target that caught it. */
export const termsDaily: Kind = {
  columns: [
    ...target,
    column('term', 'text', 'search term, search query, query, shopper query, search, suchbegriff', true),
    ...figures,
  ],
  open: ({ tx, accountId, months }) => FactLoad.open(tx, accountId, 'term_day', months),
  openSummary: ({ tx, accountId }) => openSummary(tx, accountId, 'terms-daily', checkSpan),
  analysed: (own) => [own('term_day'), 'term', 'target'],
};
