import { randomUUID } from 'node:crypto';
import {
  effectOfEdit,
  linesOf,
  revertOf,
  totalEffect,
  type Adjustment,
  type LineDraft,
} from '../../core/changes/lines.ts';
import { addDays, daysBetween, windowDays, type Window } from '../../core/metrics/days.ts';
import { money } from '../../core/metrics/format.ts';
import { total } from '../../core/metrics/figures.ts';
import { sentenceOf } from '../../core/round/explain.ts';
import type { Effect } from '../../core/effect/types.ts';
import type { Finding } from '../../core/round/types.ts';
import { getAccount, settling } from '../account/index.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { enqueue } from '../jobs/index.ts';
import { sumsOfLines } from '../forecasts/queries.ts';
import { findingsOf } from '../round/index.ts';
import { limitsOf } from '../round/input.ts';
import { seasonDays } from '../round/queries.ts';
import { bidProblem } from './bids.ts';
import { settleByHand, todayOf } from './carry.ts';
import { rowOf } from './rows.ts';
import {
  bidOf,
  changeLine,
  insertLines,
  linesOfSheet,
  linesUnder,
  lockOpenSheet,
  openSheetId,
  removeLines,
  restoreLines,
  setLineState,
  setSheetState,
  sheetById,
  sheetsOf,
  wholeHarvests,
  type LineRow,
  type NamedLine,
  type NewLine,
} from './queries.ts';

/** The open sheet: what is accepted waits here, can be changed and taken back, and leaves only from here. */

const draftOf = (line: LineRow): LineDraft => ({
  action: line.action,
  entity: line.entity,
  objectId: line.object_id,
  campaignId: line.campaign_id,
  adGroupId: line.ad_group_id,
  field: line.field,
  oldValue: line.old_value,
  newValue: line.new_value,
  targetKind: line.target_kind,
  matchType: line.match_type,
  expression: line.expression,
  reason: line.reason,
  effect: line.effect,
});

/** How long a change of the sheet waits for another that is being written. */
const patience = '20s';

/** Acts on the open sheet while nobody else changes or sends it. */
async function withOpenSheet<T>(
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
async function addLines(
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
    fresh.push({ ...row, sheet_id: sheetId });
  }
  return insertLines(tx, accountId, fresh);
}

function checkAdjustment(
  finding: Finding,
  adjustment: Adjustment,
  limits: ReturnType<typeof limitsOf>,
): void {
  if (adjustment.bid === undefined) return;
  const { minimumBid, maximumBid, step } = limits.guards;
  const place = { field: 'bid' };
  if (adjustment.bid < minimumBid) {
    const message = `${finding.subject}: ${money(adjustment.bid)} is below the marketplace’s least bid of ${money(minimumBid)}; it would never be shown.`;
    throw new ServiceError(422, 'bid_below_minimum', message, place);
  }
  if (adjustment.bid > maximumBid) {
    const message = `${finding.subject}: ${money(adjustment.bid)} is above the marketplace’s highest bid of ${money(maximumBid)}.`;
    throw new ServiceError(422, 'bid_above_maximum', message, place);
  }
  if (adjustment.bid % step !== 0) {
    throw new ServiceError(422, 'bid_step', `${finding.subject}: bids go in steps of ${money(step)}.`, place);
  }
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

export interface Accepted {
  /** One group per finding: undo takes them by these. */
  groups: string[];
  lines: number;
}

/** Accepts findings of a window: their lines go onto the open sheet, all or none. */
export async function acceptFindings(
  accountId: number,
  window: Window,
  keys: string[],
  adjustments: Record<string, Adjustment>,
): Promise<Accepted> {
  const account = await getAccount(db(), accountId);
  const [byKey, result] = await findingsOf(accountId, window, keys);
  const limits = limitsOf(account);
  const names = { adGroup: (id: string) => result.adGroups[id]?.name ?? id };
  const campaignOf = (id: string): string => {
    const adGroup = result.adGroups[id];
    if (!adGroup) throw notFound(`ad group ${id}`);
    return adGroup.campaignId;
  };
  const campaignsOf = (sku: string | null): string[] =>
    Object.values(result.adGroups)
      .filter((adGroup) => adGroup.enabled && adGroup.sku === sku)
      .map(({ campaignId }) => campaignId);
  const groups: string[] = [];
  const rows: NewLine[] = [];
  for (const key of new Set(keys)) {
    const finding = byKey.get(key);
    if (!finding) {
      const message =
        'A finding is not there any more: the figures or goals have changed. Load the round again.';
      throw new ServiceError(409, 'finding_gone', message, { field: key });
    }
    const adjustment = adjustments[key] ?? {};
    checkAdjustment(finding, adjustment, limits);
    const drafts = linesOf(finding, adjustment, sentenceOf(finding, names), { campaignOf, campaignsOf });
    if (drafts.length === 0) {
      throw new ServiceError(422, 'nothing_proposed', `“${finding.subject}” has no proposal to accept.`, {
        field: key,
      });
    }
    const group = randomUUID();
    groups.push(group);
    const proposed = Object.keys(adjustment).length > 0 ? 'Mowing, adjusted' : 'Mowing';
    const about = { sheet_id: 0, group_key: group, finding_key: key, proposed_by: proposed, reverts: null };
    rows.push(...drafts.map((draft) => rowOf(draft, about)));
  }
  const made = await withOpenSheet(accountId, (tx, sheetId) => addLines(tx, accountId, sheetId, rows));
  return { groups, lines: made.length };
}

/** Where a change would do nothing, its maker is told: somebody else was there first. */
function some(lines: number): number {
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
    some(await removeLines(tx, accountId, await wholeHarvests(tx, accountId, lineIds))),
  );
export const restoreOpenLines = async (accountId: number, lineIds: number[]): Promise<number> =>
  withOpenSheet(accountId, async (tx) =>
    some(await restoreLines(tx, accountId, await wholeHarvests(tx, accountId, lineIds))),
  );

export interface SheetLine extends NamedLine {
  /** Other open lines set the same field to something else. */
  conflict: boolean;
  /** The live value is no longer the old value. */
  overtaken: boolean;
}

const withFlags = (lines: NamedLine[]): SheetLine[] => {
  const uses = new Map<string, number>();
  for (const line of lines)
    if (line.state === 'open') uses.set(line.conflict_key, (uses.get(line.conflict_key) ?? 0) + 1);
  return lines.map((line) => ({
    ...line,
    conflict: line.state === 'open' && (uses.get(line.conflict_key) ?? 0) > 1,
    overtaken:
      line.state === 'open' &&
      line.action === 'update' &&
      line.now_value !== null &&
      line.now_value !== line.old_value,
  }));
};

/** A week of the account as it runs: the last four settled weeks. */
async function weekNow(accountId: number): Promise<{ spend: number; sales: number } | null> {
  const account = await getAccount(db(), accountId);
  const { settledTo } = await settling(db(), account);
  if (!settledTo) return null;
  const from = addDays(settledTo, -27);
  const days = (await seasonDays(db(), accountId, from)).filter(({ day }) => day <= settledTo);
  const sums = total(days);
  return { spend: sums.spend / 4, sales: sums.sales / 4 };
}

/** The open sheet with its lines, flags and what it should do per week. */
export async function openSheet(accountId: number) {
  const sheetId = await openSheetId(db(), accountId);
  const lines = withFlags(await linesOfSheet(db(), accountId, sheetId));
  return {
    sheetId,
    lines,
    effect: totalEffect(lines),
    week: await weekNow(accountId),
    conflicts: lines.filter((line) => line.conflict).length,
    overtaken: lines.filter((line) => line.overtaken).length,
  };
}

export type OpenSheet = Awaited<ReturnType<typeof openSheet>>;

export interface LineEdit {
  newValue?: string;
  /** Makes the live value the old one. */
  rebase?: boolean;
  /** The version of the line that its editor saw; left out, any. */
  version?: number;
}

/** Changes the new value of an open line, or makes the live value its old one. */
export async function editLine(accountId: number, lineId: number, change: LineEdit): Promise<void> {
  const account = await getAccount(db(), accountId);
  await withOpenSheet(accountId, async (tx, sheetId) => {
    const line = (await linesOfSheet(tx, accountId, sheetId)).find((one) => one.line_id === lineId);
    if (line?.state !== 'open') {
      const message = 'This line is not on the open sheet any more: it was sent or removed meanwhile.';
      throw new ServiceError(409, 'not_on_the_sheet', message);
    }
    if (change.version !== undefined && change.version !== line.version) {
      const now = line.field === 'bid' ? money(Number(line.new_value)) : line.new_value;
      const message = `Somebody else changed this line meanwhile: it says ${now} now. Look at it and edit it again.`;
      throw new ServiceError(409, 'line_changed', message);
    }
    const values = valuesOf(line, change, limitsOf(account));
    if (Object.keys(values).length > 0) await changeLine(tx, accountId, lineId, values);
  });
}

function valuesOf(line: NamedLine, change: LineEdit, limits: ReturnType<typeof limitsOf>) {
  const values: { old_value?: string | null; new_value?: string; effect?: Effect | null } = {};
  if (change.newValue !== undefined) {
    if (line.field !== 'bid') {
      throw new ServiceError(422, 'not_editable', 'Only bids are edited here. Remove the line instead.', {
        field: line.field,
      });
    }
    const bid = Number(change.newValue);
    const problem = bidProblem(bid, limits.guards);
    if (problem) throw new ServiceError(422, 'bad_bid', problem, { field: 'newValue' });
    values.new_value = String(bid);
    if (values.new_value !== line.new_value)
      values.effect = effectOfEdit(
        { oldValue: line.old_value, newValue: line.new_value, effect: line.effect },
        values.new_value,
      );
  }
  if (change.rebase) values.old_value = line.now_value;
  return values;
}

/** The lines of the open sheet when it can leave as it stands; an error that says why it cannot. */
async function readyLines(tx: Transaction, accountId: number, sheetId: number, seen: number | undefined) {
  const lines = withFlags(await linesOfSheet(tx, accountId, sheetId));
  if (lines.length === 0) throw new ServiceError(422, 'empty_sheet', 'The sheet is empty.');
  if (seen !== undefined && seen !== lines.length) {
    const message = `The sheet changed meanwhile: it holds ${lines.length} lines now, not ${seen}. Nothing was sent; look at it again.`;
    throw new ServiceError(409, 'sheet_changed', message);
  }
  const conflicts = lines.filter(({ conflict }) => conflict).length;
  if (conflicts > 0) {
    const message = `${conflicts} lines conflict with each other. Keep one of each before sending.`;
    throw new ServiceError(422, 'conflicts', message);
  }
  return lines;
}

/**
 * Sends the open sheet: checks it as it stands now, closes it to edits, and starts the job that carries it over.
 * `lines` is how many its sender saw; left out, all that there are.
 */
export async function sendSheet(
  accountId: number,
  seen: number | undefined,
): Promise<{ jobId: string; sheetId: number }> {
  const sheet = await withOpenSheet(accountId, async (tx, sheetId) => {
    await readyLines(tx, accountId, sheetId, seen);
    await setSheetState(tx, accountId, sheetId, 'sending');
    return sheetId;
  });
  return { sheetId: sheet, jobId: await enqueue(accountId, 'send', { sheetId: sheet }) };
}

/**
 * Notes that lines of the open sheet were carried over by hand and applied: those named, or all. The others wait on the
 * next sheet. `seen`: see `sendSheet`.
 */
export async function carryOver(
  accountId: number,
  lineIds: number[] | null,
  seen: number | undefined,
): Promise<{ sheetId: number; lines: number; left: number }> {
  return withOpenSheet(accountId, async (tx, sheetId) => {
    const lines = await readyLines(tx, accountId, sheetId, seen);
    const wanted = lineIds === null ? null : new Set(lineIds);
    const chosen = wanted === null ? lines : lines.filter(({ line_id }) => wanted.has(line_id));
    some(wanted !== null && chosen.length < wanted.size ? 0 : chosen.length);
    const carried = chosen.map(({ line_id }) => ({
      lineId: line_id,
      state: 'applied' as const,
      message: null,
    }));
    await settleByHand(tx, accountId, sheetId, carried, await todayOf(tx, accountId, new Date()));
    return { sheetId, lines: carried.length, left: lines.length - carried.length };
  });
}

export const listSheets = (accountId: number) => sheetsOf(db(), accountId);

export interface BeforeAfter {
  clicks: number;
  spend: number;
  orders: number;
  sales: number;
}

const nothing: BeforeAfter = { clicks: 0, spend: 0, orders: 0, sales: 0 };

/** One sheet with its lines; sent ones with what happened before and after, on settled days of equal number. */
export async function sheetWithEffect(accountId: number, sheetId: number) {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (!sheet) throw notFound(`sheet ${sheetId}`);
  const lines = withFlags(await linesOfSheet(db(), accountId, sheetId));
  const account = await getAccount(db(), accountId);
  const { settledTo } = await settling(db(), account);
  let windows: { before: Window; after: Window } | null = null;
  const before = new Map<number, BeforeAfter>();
  const after = new Map<number, BeforeAfter>();
  if (sheet.state === 'sent' && sheet.sent_on && settledTo && settledTo > sheet.sent_on) {
    // The day of sending saw both bids: it belongs to neither side.
    const first = addDays(sheet.sent_on, 1);
    const length = Math.min(28, daysBetween(first, settledTo) + 1);
    // Whole weeks, as soon as there is one: Sundays differ.
    const days = length >= 7 ? length - (length % 7) : length;
    windows = {
      before: { from: addDays(sheet.sent_on, -days), to: addDays(sheet.sent_on, -1) },
      after: { from: first, to: addDays(first, days - 1) },
    };
    const touched = lines.filter(
      ({ state, entity }) => state === 'applied' && (entity === 'target' || entity === 'negative'),
    );
    for (const [map, window] of [
      [before, windows.before],
      [after, windows.after],
    ] as const) {
      const spans = touched.map(({ line_id }) => ({ line_id, ...window }));
      for (const row of await sumsOfLines(db(), accountId, spans)) map.set(row.line_id, row);
    }
  }
  return {
    sheet,
    windows,
    days: windows ? windowDays(windows.after) : 0,
    effect: totalEffect(lines),
    lines: lines.map((line) => ({
      ...line,
      before: windows ? (before.get(line.line_id) ?? nothing) : null,
      after: windows ? (after.get(line.line_id) ?? nothing) : null,
    })),
  };
}

export type SheetWithEffect = Awaited<ReturnType<typeof sheetWithEffect>>;

/** Puts the lines that take back a sent line, or a whole sent sheet, onto the open sheet. */
export async function revert(
  accountId: number,
  sheetId: number,
  lineIds: number[] | null,
): Promise<{ groups: string[]; lines: number }> {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (!sheet) throw notFound(`sheet ${sheetId}`);
  if (sheet.state !== 'sent') throw new ServiceError(422, 'not_sent', 'Only sent sheets are reverted.');
  const all = await linesOfSheet(db(), accountId, sheetId);
  // A harvest is taken back whole: a term that is blocked everywhere and served nowhere helps nobody.
  const named = lineIds === null ? null : new Set(await wholeHarvests(db(), accountId, lineIds));
  const wanted = all.filter(
    (line) => line.state === 'applied' && (named === null || named.has(line.line_id)),
  );
  if (wanted.length === 0) throw new ServiceError(422, 'nothing_applied', 'None of these lines was applied.');
  const group = randomUUID();
  const lines = await withOpenSheet(accountId, async (tx, openId) => {
    const rows: NewLine[] = [];
    for (const line of wanted) {
      if (line.object_id === null) continue;
      const draft = revertOf({ ...draftOf(line), objectId: line.object_id });
      if (draft.action === 'create' && draft.entity === 'target') {
        draft.newValue = String((await bidOf(tx, accountId, line.object_id)) ?? '');
      }
      rows.push(
        rowOf(draft, {
          sheet_id: 0,
          group_key: group,
          finding_key: null,
          proposed_by: `revert of sheet ${sheetId}`,
          reverts: line.line_id,
        }),
      );
    }
    return addLines(tx, accountId, openId, rows);
  });
  return { groups: [group], lines: lines.length };
}

/** Brings refused lines back onto the open sheet, to be repaired there. */
export async function repairRefused(accountId: number, sheetId: number): Promise<{ lines: number }> {
  const refused = (await linesOfSheet(db(), accountId, sheetId)).filter((line) => line.state === 'refused');
  if (refused.length === 0)
    throw new ServiceError(422, 'nothing_refused', 'No line of this sheet was refused.');
  const lines = await withOpenSheet(accountId, (tx, openId) =>
    addLines(
      tx,
      accountId,
      openId,
      refused.map((line) =>
        rowOf(draftOf(line), {
          sheet_id: 0,
          group_key: randomUUID(),
          finding_key: line.finding_key,
          proposed_by: line.proposed_by,
          reverts: line.reverts,
        }),
      ),
    ),
  );
  return { lines: lines.length };
}

/** Goes on with a sheet whose sending stopped on an error; batches that were answered stay as they are. */
export async function resumeSending(accountId: number, sheetId: number): Promise<{ jobId: string }> {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (sheet?.state !== 'sending') throw new ServiceError(422, 'not_sending', 'This sheet is not on its way.');
  return { jobId: await enqueue(accountId, 'send', { sheetId }) };
}
