import { stringify } from 'csv-stringify/sync';
import { valueText } from '../../core/changes/lines.ts';
import { linesOfSheet, sheetById } from '../changes/queries.ts';
import { db } from '../db/connection.ts';
import { notFound } from '../errors.ts';

export const sheetColumns = [
  'line_id',
  'sheet',
  'action',
  'entity',
  'object_id',
  'campaign_id',
  'campaign',
  'ad_group_id',
  'ad_group',
  'target_kind',
  'match_type',
  'expression',
  'field',
  'old_value',
  'new_value',
  'reason',
  'proposed_by',
  'state',
  'message',
];

/** A sheet as CSV. Cells that a spreadsheet would take for a formula are escaped. */
export async function sheetCsv(accountId: number, sheetId: number): Promise<string> {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (!sheet) throw notFound(`sheet ${sheetId}`);
  const rows = (await linesOfSheet(db(), accountId, sheetId)).map((line) => {
    const draft = { field: line.field, oldValue: line.old_value, newValue: line.new_value };
    return {
      ...line,
      sheet: sheetId,
      old_value: valueText(draft, 'old').replaceAll(',', ''),
      new_value: valueText(draft, 'new').replaceAll(',', ''),
    };
  });
  return stringify(rows, { header: true, columns: sheetColumns, escape_formulas: true });
}
