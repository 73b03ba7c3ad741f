import { readsKept } from '../../../../server/http/http.ts';
import { findPlaces } from '../../../../server/goals/index.ts';

/** Campaigns and ad groups whose names hold a text (?text). */
export const GET = readsKept(({ accountId, query }) =>
  findPlaces(accountId, (query.get('text') ?? '').slice(0, 200)),
);
