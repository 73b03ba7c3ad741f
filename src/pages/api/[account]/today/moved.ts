import { windowOf } from '../../../../server/account/index.ts';
import { ServiceError } from '../../../../server/errors.ts';
import { readsKept } from '../../../../server/http/http.ts';
import { movedOf } from '../../../../server/today/index.ts';
import type { SplitFigure } from '../../../../core/movers/split.ts';

const figures: readonly SplitFigure[] = ['sales', 'spend', 'acos'];
const members = ['product', 'campaign', 'target'] as const;

/** What moved a figure (?figure) between a window (?from&to) and the one before, by members (?by, within ?sku or ?campaign). */
export const GET = readsKept(async ({ accountId, query }) => {
  const figure = figures.find((one) => one === (query.get('figure') ?? 'sales'));
  const by = members.find((one) => one === (query.get('by') ?? 'product'));
  if (!figure)
    throw new ServiceError(422, 'unknown_figure', `A change is split of ${figures.join(', ')}.`, {
      field: 'figure',
    });
  if (!by)
    throw new ServiceError(422, 'unknown_members', `A change is split by ${members.join(', ')}.`, {
      field: 'by',
    });
  return movedOf(accountId, {
    figure,
    by,
    window: await windowOf(accountId, query.get('from'), query.get('to')),
    sku: query.get('sku'),
    campaignId: query.get('campaign'),
  });
});
