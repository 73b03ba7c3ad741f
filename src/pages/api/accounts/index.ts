import { listAccounts, makeAccount, newAccount } from '../../../server/account/index.ts';
import { reads, writes } from '../../../server/http/http.ts';

/** The accounts of this installation, by name. */
export const GET = reads(() => listAccounts());

/** Makes an account, with files only or connected to a marketplace. */
export const POST = writes(newAccount, ({ body }) => makeAccount(body));
