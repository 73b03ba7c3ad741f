import { accountPackage } from '../../../server/exports/package.ts';
import { reads } from '../../../server/http.ts';

/** Everything of the account as a Data Package. */
export const GET = reads(({ accountId }) => accountPackage(accountId));
