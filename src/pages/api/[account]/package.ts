import { accountPackage } from '../../../server/exports/index.ts';
import { reads } from '../../../server/http/http.ts';

/** Everything of the account as a Data Package. */
export const GET = reads(({ accountId }) => accountPackage(accountId));
