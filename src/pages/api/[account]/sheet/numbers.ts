import { pageWanted, openNumbers } from '../../../../server/changes/index.ts';
import { reads } from '../../../../server/http/http.ts';

/** The numbers of all lines of a group of the open sheet, or of a view of it. */
export const GET = reads(({ accountId, query }) => {
  const group = query.get('group');
  return openNumbers(accountId, group === null ? { view: pageWanted(query).view } : { group });
});
