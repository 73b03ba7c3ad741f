import { fieldOf, valueProblem, valueText, type FieldLimits } from '../../core/changes/fields.ts';
import { fieldLimitsOf } from '../account/limits.ts';
import { randomUUID } from 'node:crypto';
import { effectOfEdit, type LineDraft } from '../../core/changes/lines.ts';
import { getAccount } from '../account/account.ts';
import { db, type Transaction } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import {
  changeLine,
  type LineValues,
  insertLines,
  linesOfSheet,
  linesUnder,
  removeLines,
  restoreLines,
  setLineState,
  wholeHarvests,
  type NamedLine,
  type NewLine,
} from './lines.queries.ts';
import { renamePlanned, takenNames } from './planned.queries.ts';
import { lockOpenSheet } from './sheets.queries.ts';
import { rowOf } from './rows.ts';

/** The open sheet: what is accepted waits here, can be changed and taken back, and leaves only from here. */

/** How long a change of the sheet waits for another that is being written. */
const patience = '20s';

/** Acts on the open sheet while nobody else changes or sends it. */
export async function withOpenSheet<T>(
  accountId: number,
  act: (tx: Transaction, sheetId: number) => Promise<T>,
): Promise<T> {
  try {
    return (await db().begin(async (begun) => {
      const tx = begun as Transaction;
      await tx`select set_config('lock_timeout', ${patience}, true)`;
      return act(tx, await lockOpenSheet(tx, accountId));
    })) as T;
  } catch (error) {
    if ((error as { code?: string }).code !== lockTimedOut) throw error;
    const message =
      'A large change of the sheet is being written. Nothing was changed; try again in a moment.';
    throw new ServiceError(409, 'sheet_busy', message);
  }
}

/** Postgres's code for a lock that was waited for too long. */
const lockTimedOut = '55P03';

/** Puts lines on the sheet. A line that repeats an open one says nothing new and is left out. */
export async function addLines(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  rows: NewLine[],
): Promise<number[]> {
  const open = await linesUnder(
    tx,
    accountId,
    sheetId,
    rows.map((row) => row.conflict_key),
  );
  const same = new Set(open.map((line) => `${line.conflict_key}|${line.action}|${line.new_value}`));
  const fresh: NewLine[] = [];
  for (const row of rows) {
    const key = `${row.conflict_key}|${row.action}|${row.new_value}`;
    if (same.has(key)) continue;
    same.add(key);
    row.sheet_id = sheetId;
    fresh.push(row);
  }
  return insertLines(tx, accountId, fresh);
}

export interface Accepted {
  /** One group per finding: undo takes them by these. */
  groups: string[];
  lines: number;
}

/** Puts lines onto the open sheet, all or none, as one group; those of a finding under its key. */
export async function addDrafts(
  accountId: number,
  drafts: LineDraft[],
  proposedBy: string,
  findingKey: string | null = null,
): Promise<Accepted> {
  const group = randomUUID();
  const about = {
    sheet_id: 0,
    group_key: group,
    finding_key: findingKey,
    proposed_by: proposedBy,
    reverts: null,
  };
  const rows = drafts.map((draft) => rowOf(draft, about));
  const made = await withOpenSheet(accountId, (tx, sheetId) => addLines(tx, accountId, sheetId, rows));
  return { groups: [group], lines: made.length };
}

/** Where a change would do nothing, its maker is told: somebody else was there first. */
export function some(lines: number): number {
  if (lines > 0) return lines;
  throw new ServiceError(
    409,
    'not_on_the_sheet',
    'Nothing of this is on the open sheet any more: it was sent, removed or brought back meanwhile.',
  );
}

/** Takes accepted groups off the sheet again, or puts them back. */
export async function undoGroups(accountId: number, groups: string[], back: boolean): Promise<number> {
  return withOpenSheet(accountId, async (tx) =>
    some(
      back
        ? await setLineState(tx, accountId, groups, 'removed', 'open')
        : await setLineState(tx, accountId, groups, 'open', 'removed'),
    ),
  );
}

/** Takes lines off the open sheet; all lines of a harvest stay together. */
export const removeOpenLines = async (accountId: number, lineIds: number[]): Promise<number> =>
  withOpenSheet(accountId, async (tx) =>
    some(await removeLines(tx, accountId, await wholeHarvests(tx, accountId, lineIds, 'below'))),
  );
export const restoreOpenLines = async (accountId: number, lineIds: number[]): Promise<number> =>
  withOpenSheet(accountId, async (tx) =>
    some(await restoreLines(tx, accountId, await wholeHarvests(tx, accountId, lineIds, 'above'))),
  );

export interface LineEdit {
  newValue?: string;
  /** Makes the live value the old one. */
  rebase?: boolean;
  /** Another name of the campaign or ad group that it makes. */
  name?: string;
  /** The version of the line that its editor saw; left out, any. */
  version?: number;
}

/** Changes the new value of an open line, or makes the live value its old one. */
export async function editLine(accountId: number, lineId: number, change: LineEdit): Promise<void> {
  const account = await getAccount(db(), accountId);
  await withOpenSheet(accountId, async (tx, sheetId) => {
    const [line] = await linesOfSheet(tx, accountId, sheetId, { lineIds: [lineId] });
    if (line?.state !== 'open') {
      const message = 'This line is not on the open sheet any more: it was sent or removed meanwhile.';
      throw new ServiceError(409, 'not_on_the_sheet', message);
    }
    if (change.version !== undefined && change.version !== line.version) {
      const now = valueText(fieldOf(line.entity, line.field), line.new_value);
      const message = `Somebody else changed this line meanwhile: it says ${now} now. Look at it and edit it again.`;
      throw new ServiceError(409, 'line_changed', message);
    }
    const values: LineValues = valuesOf(line, change, fieldLimitsOf(account));
    if (change.name !== undefined) values.expression = await renamed(tx, accountId, line, change.name);
    if (Object.keys(values).length > 0) await changeLine(tx, accountId, lineId, values);
  });
}

/** Names what a line makes anew; its name as it is kept. Throws what is wrong with it. */
async function renamed(tx: Transaction, accountId: number, line: NamedLine, wanted: string): Promise<string> {
  const name = wanted.trim();
  const { action, entity, campaign_id, ad_group_id, campaign } = line;
  if (action !== 'create' || (entity !== 'campaign' && entity !== 'ad_group'))
    throw new ServiceError(422, 'not_editable', 'Only what is made here can be named here.', {
      field: 'name',
    });
  if (name === '')
    throw new ServiceError(422, 'bad_value', 'A name cannot be taken away.', { field: 'name' });
  const taken = entity === 'campaign' && name.toLowerCase() !== campaign.toLowerCase();
  if (taken && (await takenNames(tx, accountId)).includes(name.toLowerCase()))
    throw new ServiceError(
      422,
      'name_taken',
      `There is a campaign “${name}” already: give it another name.`,
      {
        field: 'name',
      },
    );
  await renamePlanned(tx, accountId, entity, entity === 'campaign' ? campaign_id : ad_group_id!, name);
  return name;
}

function valuesOf(line: NamedLine, change: LineEdit, limits: FieldLimits): LineValues {
  const values: LineValues = {};
  if (change.newValue !== undefined) {
    const field = fieldOf(line.entity, line.field);
    if (!field || line.action === 'archive') {
      const message = 'There is no value to edit here. Remove the line instead.';
      throw new ServiceError(422, 'not_editable', message, { field: line.field });
    }
    const wanted = change.newValue === '' ? null : change.newValue;
    const problem = valueProblem(field, wanted, limits);
    if (problem) throw new ServiceError(422, 'bad_value', problem, { field: 'newValue' });
    values.new_value = wanted;
    if (field.name === 'bid' && wanted !== null && wanted !== line.new_value)
      values.effect = effectOfEdit(
        { oldValue: line.old_value, newValue: line.new_value, effect: line.effect },
        wanted,
      );
  }
  if (change.rebase) values.old_value = line.now_value;
  return values;
}
