import { checkSpan } from '../staging/spans.ts';
import { FactLoad } from '../staging/fact-load.ts';
import { openSummary } from '../staging/summaries.ts';
import type { Kind } from './kind.ts';
import { figures, target } from './shared.ts';

/** What each target did on each day. */
export const targetsDaily: Kind = {
  columns: [...target, ...figures],
  open: ({ tx, accountId, months }) => FactLoad.open(tx, accountId, 'target_day', months),
  openSummary: ({ tx, accountId }) => openSummary(tx, accountId, 'targets-daily', checkSpan),
  analysed: (own) => [own('target_day'), 'target'],
};
