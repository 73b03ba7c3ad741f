/** Changes of the account: the open sheet, how it leaves, and the ledger of what has left. */

export { carryOver, resumeSending, sendSheet } from './leaving.ts';
export {
  effectOfSheet,
  listOutside,
  listSheets,
  repairRefused,
  revert,
  sentPage,
  sheetWithCounts,
} from './ledger.ts';
export {
  addDrafts,
  editLine,
  removeOpenLines,
  restoreOpenLines,
  undoGroups,
  type Accepted,
  type LineEdit,
} from './open.ts';
export { openNumbers, openPage, openSheet } from './sheet.ts';
export { pageWanted } from './door.ts';
