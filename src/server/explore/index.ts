/** Explore: every level of the account as one table, edits of its rows, cross-tabs, slices. */

export { crossTabKeys, type CrossTabCall, editSchema, tableKeys } from './door.ts';
export {
  exportCrossTab,
  crossTabOf,
  applyEdit,
  exportTable,
  heldBySlice,
  type TableRequest,
  previewEdit,
  rowOf,
  tableOf,
  usualOf,
  trendOf,
} from './tables.ts';
export { removeSlice, saveSlice, slicesOf } from './slices.ts';
export { type Only } from '../engine/engine.ts';
