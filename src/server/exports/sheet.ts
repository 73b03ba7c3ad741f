import { stringify } from 'csv-stringify/sync';
import { fieldOf, toUnits } from '../../core/changes/fields.ts';
import { dependence } from '../../core/changes/lines.ts';
import { changeColumns } from '../changes/columns.ts';
import { linesOfSheet, type NamedLine } from '../changes/lines.queries.ts';
import { plannedOf } from '../changes/planned.queries.ts';
import { sheetById, type SheetRow } from '../changes/sheets.queries.ts';
import { db } from '../db/connection.ts';
import { notFound } from '../errors.ts';

/** A line as the columns of `changes`: ids are the marketplace's, money is in currency units. */
export function changeRow(line: NamedLine, sheet: Pick<SheetRow, 'sheet_id' | 'sent_on'>) {
  const field = fieldOf(line.entity, line.field);
  return {
    ...line,
    sheet: sheet.sheet_id,
    sent_on: sheet.sent_on,
    object_id: line.object_ext,
    campaign_id: line.campaign_ext,
    ad_group_id: line.ad_group_ext,
    old_value: toUnits(field, line.old_value) ?? '',
    new_value: toUnits(field, line.new_value) ?? '',
  };
}

/** A sheet as CSV. Cells that a spreadsheet would take for a formula are escaped. */
export async function sheetCsv(accountId: number, sheetId: number): Promise<string> {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (!sheet) throw notFound(`sheet ${sheetId}`);
  const planned = new Map(
    (await plannedOf(db(), accountId, sheetId)).map(({ entity, objectId, settings }) => [
      `${entity}:${objectId}`,
      JSON.stringify(settings),
    ]),
  );
  const settingsOf = ({ action, entity, campaign_id, ad_group_id }: NamedLine) =>
    action === 'create'
      ? planned.get(`${entity}:${entity === 'campaign' ? campaign_id : ad_group_id}`)
      : undefined;
  const rows = (await linesOfSheet(db(), accountId, sheetId))
    .sort((a, b) => dependence(a) - dependence(b))
    .map((line) => ({ ...changeRow(line, sheet), settings: settingsOf(line) ?? '' }));
  return stringify(rows, { header: true, columns: changeColumns, escape_formulas: true });
}
