import { randomUUID } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import type {
  OutsideAnswer,
  SheetSummary,
  LinePage,
  SentLine,
  SheetDetail,
  SheetEffect,
  SheetLine,
  SumsOfLine,
} from '../../answers/changes.ts';
import { revertOf, type LineDraft } from '../../core/changes/lines.ts';
import type { LineView } from '../../core/changes/sheet.ts';
import { believedOf, outcomeOf, weeksTogether, type Outcome } from '../../core/effect/outcome.ts';
import type { Effect, ExpectedWeek } from '../../core/effect/types.ts';
import { addDays, daysBetween, windowDays, type Day, type Window } from '../../core/metrics/days.ts';
import { getAccount, settling } from '../account/account.ts';
import { apart, db } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { outsideChanges } from './outside.queries.ts';
import { controlsOf } from '../forecasts/control.ts';
import { changedAgain, sumsOfLines, sumsTogether } from '../forecasts/queries.ts';
import { addLines, withOpenSheet } from './open.ts';
import { bidsOf } from './batches.queries.ts';
import { linesOfSheet, wholeHarvests, type LineRow, type NewLine } from './lines.queries.ts';
import { sheetById, sheetsOf, type SheetRow } from './sheets.queries.ts';
import { rowOf } from './rows.ts';
import { pageOf } from './sheet.ts';
import { goalLookup } from './scopes.ts';
import { stateCounts, touchedLines } from './sheet.queries.ts';

/** Sheets that have left: what came back, what happened before and after, and the way back. */

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
  harvest: line.harvest,
  reason: line.reason,
  effect: line.effect,
  test: line.test,
});

export const listSheets = async (accountId: number): Promise<SheetSummary[]> =>
  (await sheetsOf(db(), accountId)).map((sheet) => ({
    ...sheet,
    created_at: sheet.created_at.toISOString(),
    sent_at: sheet.sent_at?.toISOString() ?? null,
  }));

const nothing: SumsOfLine = { clicks: 0, spend: 0, orders: 0, sales: 0 };

/** A sheet that has left, in figures; once days after its sending have settled, over which days it is compared. */
export async function sheetWithCounts(accountId: number, sheetId: number): Promise<SheetDetail> {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (!sheet) throw notFound(`sheet ${sheetId}`);
  const windows = await windowsOf(accountId, sheet);
  const counts = await stateCounts(db(), accountId, sheetId);
  return { sheet, counts, windows, days: windows ? windowDays(windows.after) : 0 };
}

/** Settled days before and after a sheet was sent, of equal number. */
async function windowsOf(
  accountId: number,
  { state, sent_on }: SheetRow,
): Promise<{ before: Window; after: Window } | null> {
  const { settledTo } = await settling(db(), await getAccount(db(), accountId));
  if (state !== 'sent' || !sent_on || !settledTo || settledTo <= sent_on) return null;
  // The day of sending saw both bids: it belongs to neither side.
  const first = addDays(sent_on, 1);
  return sidesOf(sent_on, daysBetween(first, settledTo) + 1);
}

/** So many days on both sides of a day, four weeks at most; whole weeks, as soon as there is one: Sundays differ. */
function sidesOf(sentOn: Day, length: number): { before: Window; after: Window } {
  const most = Math.min(28, length);
  const days = most >= 7 ? most - (most % 7) : most;
  const first = addDays(sentOn, 1);
  return {
    before: { from: addDays(sentOn, -days), to: addDays(sentOn, -1) },
    after: { from: first, to: addDays(first, days - 1) },
  };
}

/** A page of a sheet that has left, each applied line with what it touched before and after. */
export async function sentPage(
  accountId: number,
  sheetId: number,
  view: LineView,
  from: number,
  count: number,
): Promise<LinePage<SentLine>> {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (!sheet) throw notFound(`sheet ${sheetId}`);
  const [page, windows] = await Promise.all([
    pageOf(accountId, sheetId, view, from, count),
    windowsOf(accountId, sheet),
  ]);
  const lines = page.entries.flatMap((entry) =>
    'line' in entry && entry.line.state === 'applied' ? [entry.line] : [],
  );
  const known = windows ? await outcomesOf(accountId, sheet.sent_on!, windows, lines) : null;
  return {
    ...page,
    entries: page.entries.map((entry) => {
      if ('head' in entry) return entry;
      const told = known?.get(entry.line.line_id);
      return {
        line: {
          ...entry.line,
          before: told?.before ?? null,
          after: told?.after ?? null,
          outcome: told?.outcome ?? null,
        },
      };
    }),
  };
}

interface Told {
  before: SumsOfLine;
  after: SumsOfLine;
  outcome: Outcome | null;
}

/**
 * What each line touched before and after, and whether it worked: until its target was changed again, that day included
 * as forecasts do, so that a weekly round has its week.
 */
async function outcomesOf(
  accountId: number,
  sentOn: Day,
  windows: { before: Window; after: Window },
  lines: readonly SheetLine[],
): Promise<Map<number, Told>> {
  const ids = lines.map(({ line_id }) => line_id);
  const again = await changedAgain(db(), accountId, ids);
  const spanOf = (line_id: number) => {
    const day = again.get(line_id);
    return day === undefined || day > windows.after.to ? windows : sidesOf(sentOn, daysBetween(sentOn, day));
  };
  const sums = async (side: 'before' | 'after') => {
    const spans = ids.map((line_id) => ({ line_id, ...spanOf(line_id)[side] }));
    return new Map((await sumsOfLines(db(), accountId, spans)).map((row) => [row.line_id, row]));
  };
  const [before, after, goalAt] = await Promise.all([sums('before'), sums('after'), goalLookup(accountId)]);
  const daysOf = (line_id: number) => windowDays(spanOf(line_id).after);
  const lengths = [...new Set(ids.map(daysOf))];
  const controlOf = await controlsOf(
    db(),
    accountId,
    lengths.map((days) => ({ on: sentOn, days })),
  );
  const told = new Map<number, Told>();
  for (const line of lines) {
    const days = daysOf(line.line_id);
    const weeks = Math.floor(days / 7);
    const [was, is] = [before.get(line.line_id) ?? nothing, after.get(line.line_id) ?? nothing];
    const touches = line.entity === 'target' || line.entity === 'negative';
    const { targetAcos } = goalAt(line.campaign_id, line.ad_group_id);
    const { siblings, shiftOf } = controlOf({ on: sentOn, days });
    const outcome = touches
      ? outcomeOf(
          was,
          is,
          weeks,
          targetAcos,
          { ...siblings, shift: shiftOf(line, was.clicks) },
          valueOf(line.effect),
          believedOf(expectedWeeks([line])),
        )
      : null;
    told.set(line.line_id, { before: was, after: is, outcome });
  }
  return told;
}

/** What an order was said to be worth, micros. */
const valueOf = (effect: Effect | null): number =>
  effect?.before && effect.before.orders > 0 ? effect.before.sales / effect.before.orders : 0;

/** The weeks that lines were made to change, as they were expected to go on. */
const expectedWeeks = (lines: readonly { effect: Effect | null }[]): ExpectedWeek[] =>
  lines.flatMap(({ effect }) => effect?.before ?? []);

const effects = new LRUCache<string, Promise<SheetEffect | null>>({ max: 200 });

/** What all applied lines of a sheet touched before and after; null while no day after it has settled. */
export async function effectOfSheet(accountId: number, sheetId: number): Promise<SheetEffect | null> {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (!sheet) throw notFound(`sheet ${sheetId}`);
  const { data_version, origin } = await getAccount(db(), accountId);
  const key = [accountId, origin, sheetId, sheet.version, data_version].join('|');
  let pending = effects.get(key);
  if (!pending) {
    pending = apart(() => readEffect(accountId, sheet));
    effects.set(key, pending);
    pending.catch(() => effects.delete(key));
  }
  return pending;
}

async function readEffect(accountId: number, sheet: SheetRow): Promise<SheetEffect | null> {
  const all = await windowsOf(accountId, sheet);
  if (!all) return null;
  const sentOn = sheet.sent_on!;
  const lines = await touchedLines(db(), accountId, sheet.sheet_id);
  const again = await changedAgain(
    db(),
    accountId,
    lines.map(({ line_id }) => line_id),
  );
  const most = Math.floor(windowDays(all.after) / 7);
  const weeksOf = ({ line_id }: { line_id: number }): number => {
    const day = again.get(line_id);
    return day === undefined ? most : Math.floor(daysBetween(sentOn, day) / 7);
  };
  const weeks = weeksTogether(lines.map(weeksOf), most);
  const windows = weeks > 0 ? sidesOf(sentOn, weeks * 7) : all;
  // What later changes did is theirs: a line that was changed again before is left out.
  const touched = weeks > 0 ? lines.filter((line) => weeksOf(line) >= weeks) : lines;
  const sums = (window: Window) =>
    sumsTogether(
      db(),
      accountId,
      touched.map(({ line_id }) => ({ line_id, ...window })),
    );
  const span = { on: sentOn, days: windowDays(windows.after) };
  const [before, after, controlOf, goalAt] = await Promise.all([
    sums(windows.before),
    sums(windows.after),
    controlsOf(db(), accountId, [span]),
    goalLookup(accountId),
  ]);
  // Lines of several scopes: their goals count by the money behind them.
  let [goals, weight, orders, sales, clicks, shifted] = [0, 0, 0, 0, 0, 0];
  const { siblings, shiftOf } = controlOf(span);
  for (const line of touched) {
    const { campaign_id, ad_group_id, effect } = line;
    const expected = effect?.before?.clicks ?? 0;
    clicks += expected;
    shifted += expected * shiftOf(line, (expected * span.days) / 7);
    const money = effect?.before?.spend ?? 0;
    goals += money * goalAt(campaign_id, ad_group_id).targetAcos;
    weight += money;
    orders += effect?.before?.orders ?? 0;
    sales += effect?.before?.sales ?? 0;
  }
  const first = touched[0];
  const targetAcos =
    weight > 0 ? goals / weight : first ? goalAt(first.campaign_id, first.ad_group_id).targetAcos : 0;
  const value = orders > 0 ? sales / orders : 0;
  const believed = believedOf(expectedWeeks(touched));
  const shift = clicks > 0 ? shifted / clicks : 1;
  const outcome = outcomeOf(before, after, weeks, targetAcos, { ...siblings, shift }, value, believed);
  return {
    days: windowDays(windows.after),
    overtaken: lines.length - touched.length,
    before,
    after,
    outcome,
  };
}

/** Puts the lines that take back a sent line, or a whole sent sheet, onto the open sheet. */
export async function revert(
  accountId: number,
  sheetId: number,
  lineIds: number[] | null,
): Promise<{ groups: string[]; lines: number }> {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (!sheet) throw notFound(`sheet ${sheetId}`);
  if (sheet.state !== 'sent') throw new ServiceError(422, 'not_sent', 'Only sent sheets are reverted.');
  // A harvest is taken back whole: a term that is blocked everywhere and served nowhere helps nobody.
  const named = lineIds === null ? {} : { lineIds: await wholeHarvests(db(), accountId, lineIds) };
  const wanted = await linesOfSheet(db(), accountId, sheetId, { state: 'applied', ...named });
  if (wanted.length === 0) throw new ServiceError(422, 'nothing_applied', 'None of these lines was applied.');
  const group = randomUUID();
  const lines = await withOpenSheet(accountId, async (tx, openId) => {
    const rows: NewLine[] = [];
    const anew = wanted.flatMap(({ action, entity, object_id }) =>
      action === 'archive' && entity === 'target' && object_id !== null ? [object_id] : [],
    );
    const bids = await bidsOf(tx, accountId, anew);
    for (const line of wanted) {
      if (line.object_id === null) continue;
      const draft = revertOf({ ...draftOf(line), objectId: line.object_id });
      if (draft.action === 'create' && draft.entity === 'target') {
        draft.newValue = String(bids.get(line.object_id) ?? '');
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
  const refused = await linesOfSheet(db(), accountId, sheetId, { state: 'refused' });
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

const mostOutside = 2000;

/** What was changed at the marketplace and not by a sheet. */
export const listOutside = (accountId: number): Promise<OutsideAnswer> =>
  outsideChanges(db(), accountId, mostOutside);
