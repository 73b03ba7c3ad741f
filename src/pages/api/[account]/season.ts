import { reads } from '../../../server/http.ts';
import { seasonOf } from '../../../server/round/index.ts';

export const GET = reads(({ accountId }) => seasonOf(accountId));
