/** Accounts: opened, looked up, exported, removed; what their calls say. */

export { openedAccount } from './account.ts';
export {
  firstAccount,
  accountSettings,
  changeSettings,
  removeAccount,
  listAccounts,
  makeAccount,
} from './accounts.ts';
export { windowOf } from './window.ts';
export { filesOf } from './files.ts';
export { settings, newAccount } from './door.ts';
