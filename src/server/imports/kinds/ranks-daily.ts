import { column } from '../files/columns.ts';
import type { RowCheck } from '../files/read.ts';
import { openDays, type DayFact } from '../staging/days.ts';
import type { Kind } from './kind.ts';
import { date, sku } from './shared.ts';

const checkRank: RowCheck = (values) => {
  const column = ['organic_rank', 'sponsored_rank'].find((name) => values[name] === 0);
  return column ? { column, reason: 'Positions begin at 1; leave it empty when it was not found.' } : null;
};

const fact: DayFact = {
  fact: 'rank_day',
  staged: {
    sku: 'text',
    keyword: 'text',
    organic_rank: 'integer',
    sponsored_rank: 'integer',
    search_volume: 'integer',
  },
  orders: null,
  check: checkRank,
  merge: (tx, accountId) => tx`
    insert into rank_day
    select ${accountId}, date, sku, keyword, min(organic_rank), min(sponsored_rank), max(search_volume)
    from staged_day group by date, sku, keyword`,
};

/** Where each product stood for each keyword on each day. */
export const ranksDaily: Kind = {
  columns: [
    date,
    sku,
    column('keyword', 'text', 'search term, term, phrase', true),
    column('organic_rank', 'count', 'organic position, rank, position'),
    column('sponsored_rank', 'count', 'sponsored position, ad rank, ad position'),
    column('search_volume', 'count', 'volume, searches, monthly searches'),
  ],
  open: ({ tx, accountId, months }) => openDays(tx, accountId, fact, months),
};
