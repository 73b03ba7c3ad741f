import type { Usual } from '../../core/metrics/explains.ts';
import { savedLanes } from '../account/lanes.queries.ts';
import { windowOf } from '../account/window.ts';
import { fieldLimitsOf, limitsOf } from '../account/limits.ts';
import { bidSteps, elsewhere, targetSeason } from '../facts/season.queries.ts';
import type { Level, Within } from '../../core/account/levels.ts';
import type { RowAnswer } from '../../answers/explore.ts';
import { readColumn, withComparison } from '../../core/explore/columns.ts';
import { compile, ConditionError, type Condition, type Value } from '../../core/explore/conditions.ts';
import { cellFigures, type Cell, type CellFigure } from '../../core/explore/crosstab.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import type { Edit } from '../../core/edits/edits.ts';
import { addDays, windowEnding, type Window } from '../../core/metrics/days.ts';
import { total } from '../../core/metrics/figures.ts';
import { getAccount } from '../account/account.ts';
import { addDrafts } from '../changes/index.ts';
import { db } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { tableFile, valuesFile, type TableFormat } from '../exports/table.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import type { Only, TableOrder } from '../engine/engine.ts';
import { tables } from '../engine/link.ts';
import { whyNotEditable, type EditOrder } from '../../core/edits/plan.ts';
import { pairSeason } from '../memory/queries.ts';
import { levelOfCut, whyNoCut, type Cut } from '../../core/explore/tabulate.ts';

/** Explore: every level of the account as one table, edits of its rows, cross-tabs. Tables live in a worker. */

/** What a call says of the table it means; windows default to the last 30 settled days and the days before. */
export interface TableRequest {
  level: Level;
  within: Within | null;
  where: Condition | null;
  sort: string | null;
  descending: boolean;
  columns: string[];
  window: Window | null;
  comparison: Window | null;
}

async function orderOf(accountId: number, request: TableRequest): Promise<TableOrder> {
  const { level, columns, sort, where, window, comparison } = request;
  for (const ref of [...columns, ...(sort === null ? [] : [sort])]) {
    if (!readColumn(ref, level)) {
      throw new ServiceError(422, 'no_column', `${level} have no column "${ref}".`, { field: 'columns' });
    }
  }
  if (where) {
    try {
      compile(where, level, () => () => null);
    } catch (error) {
      if (!(error instanceof ConditionError)) throw error;
      throw new ServiceError(422, 'bad_condition', error.message, { field: `where.${error.path}` });
    }
  }
  const chosen = await windowOf(accountId, window?.from ?? null, window?.to ?? null);
  return {
    level,
    within: request.within,
    where,
    sort,
    descending: request.descending,
    columns,
    windows: withComparison(chosen, comparison),
  };
}

/** Rows `offset` to `offset + limit` of a table, with the number, totals and spend of all that match. */
export async function tableOf(accountId: number, request: TableRequest, offset: number, limit: number) {
  const order = await orderOf(accountId, request);
  const answer = await tables().query(await editionOf(accountId), order, offset, limit);
  if (!answer) throw noFigures();
  return answer;
}

/** What the values of a column usually are among the rows that match; null where too few have one. */
export async function usualOf(accountId: number, request: TableRequest): Promise<{ usual: Usual | null }> {
  const order = await orderOf(accountId, request);
  const [ref] = order.columns;
  if (ref === undefined) throw new ServiceError(422, 'no_column', 'Name the column.', { field: 'columns' });
  return { usual: await tables().usual(await editionOf(accountId), order, ref) };
}

const rowsOfAPiece = 2000;

/** All rows of a table as a file. What is asked wrongly is said before the first byte leaves. */
export async function exportTable(
  accountId: number,
  request: TableRequest,
  format: TableFormat,
): Promise<Response> {
  const first = await tableOf(accountId, request, 0, rowsOfAPiece);
  async function* rows(): AsyncGenerator<Value[]> {
    for (let at = 0; at < first.count; at += rowsOfAPiece) {
      const piece = at === 0 ? first : await tableOf(accountId, request, at, rowsOfAPiece);
      for (const { values } of piece.rows) yield values;
    }
  }
  return tableFile(format, request.level, request.columns, rows());
}

export interface EditRequest {
  edit: Edit;
  keys: string[] | null;
  values: Record<string, number> | null;
  keepGuards: boolean;
}

/** The plan of an edit: to be looked at with its first rows `listed`, or, with none, to be carried out by its lines. */
async function planned(accountId: number, request: TableRequest, wanted: EditRequest, listed: number) {
  const { level } = request;
  const whyNot = whyNotEditable(level, wanted.edit);
  if (whyNot !== null) throw new ServiceError(422, 'not_editable', whyNot, { field: 'edit.field' });
  const account = await getAccount(db(), accountId);
  const { guards, ...limits } = limitsOf(account);
  const order: EditOrder = {
    ...wanted,
    guards,
    lanes: wanted.edit.field === 'lane' ? await savedLanes(db(), accountId) : null,
    limits: { ...limits, ...fieldLimitsOf(account) },
  };
  const table = await orderOf(accountId, request);
  const plan = await tables().edit(await editionOf(accountId), table, order, listed, listed === 0);
  if (!plan) throw noFigures();
  return { preview: plan.preview, drafts: JSON.parse(plan.drafts) as LineDraft[] };
}

/** What an edit would do; nothing is changed. Lists the first rows, counts all. */
export async function previewEdit(accountId: number, request: TableRequest, wanted: EditRequest) {
  return (await planned(accountId, request, wanted, 400)).preview;
}

/** Puts the lines of an edit onto the sheet, as one group that one undo takes back. */
export async function applyEdit(accountId: number, request: TableRequest, wanted: EditRequest) {
  const { preview, drafts } = await planned(accountId, request, wanted, 0);
  if (drafts.length === 0) {
    throw new ServiceError(422, 'nothing_changed', 'This edit changes none of these rows.', {
      field: 'edit',
    });
  }
  const made = await addDrafts(accountId, drafts, 'by hand');
  return { ...made, changed: preview.changed };
}

/** One target or term with its belief, season, windows and what else bids on it: the panel beside the table. */
export async function rowOf(
  accountId: number,
  level: 'targets' | 'terms',
  key: string,
  window: Window,
): Promise<RowAnswer> {
  const row = await tables().row(await editionOf(accountId), level, withComparison(window), key);
  if (!row) throw notFound(level === 'targets' ? 'target of this key' : 'search term of this key');
  const { today } = await getAccount(db(), accountId);
  const from = addDays(today!, -89);
  const season =
    level === 'targets'
      ? await targetSeason(db(), accountId, row.targetId, from)
      : await pairSeason(db(), accountId, key, from);
  const windows = [14, 30, 60].map((days) => {
    const first = windowEnding(window.to, days).from;
    return { days, ...total(season.filter(({ day }) => day >= first && day <= window.to)) };
  });
  const others = (await elsewhere(db(), accountId, row.name)).filter(
    ({ target_id }) => target_id !== row.targetId,
  );
  return {
    ...row,
    season,
    windows,
    bids: level === 'targets' ? await bidSteps(db(), accountId, row.targetId) : [],
    elsewhere: others.map((other) => ({
      adGroup: other.ad_group,
      kind: other.kind,
      matchType: other.match_type,
      bid: other.bid,
      status: other.status,
    })),
  };
}

/** Sums by day of all that match, over a span of days. */
export async function trendOf(accountId: number, request: TableRequest, span: Window, only: Only | null) {
  const order = await orderOf(accountId, request);
  const days = await tables().trend(await editionOf(accountId), order, span, only);
  if (!days) throw noFigures();
  return days;
}

/** A cross-tab over the targets that match; over placements or campaigns when it is cut by placement or hour. */
export async function crossTabOf(
  accountId: number,
  request: Pick<TableRequest, 'within' | 'where' | 'window' | 'comparison'>,
  cut: Cut,
) {
  const problem = whyNoCut(cut);
  if (problem) throw new ServiceError(422, 'no_such_cut', problem, { field: 'columns' });
  const level = levelOfCut(cut);
  const order = await orderOf(accountId, { ...request, level, sort: null, descending: false, columns: [] });
  const answer = await tables().crossTab(await editionOf(accountId), order, cut);
  if (!answer) throw noFigures();
  return { ...answer, windows: order.windows };
}

/** A cross-tab as a file: a row each, of each figure a column for every column of it; totals both ways. */
export async function exportCrossTab(
  accountId: number,
  request: Pick<TableRequest, 'within' | 'where' | 'window' | 'comparison'>,
  cut: Cut,
  figures: readonly CellFigure[],
  format: TableFormat,
): Promise<Response> {
  const tab = await crossTabOf(accountId, request, cut);
  const heads = [...tab.columns, 'all'].flatMap((column) =>
    figures.map((name) => ({
      key: figures.length > 1 ? `${column}, ${name}` : column,
      label: figures.length > 1 ? `${column}, ${cellFigures[name].label}` : column,
      kind: cellFigures[name].kind,
    })),
  );
  const line = (name: string, cells: (Cell | null)[]) => [
    name,
    ...cells.flatMap((cell) => figures.map((figure) => (cell ? cellFigures[figure].of(cell) : null))),
  ];
  const lines = [
    ...tab.rows.map((row, i) => line(row, [...tab.cells[i]!, tab.rowTotals[i]!])),
    line('all', [...tab.columnTotals, tab.total]),
  ];
  const first = { key: cut.rows, label: cut.rows.replaceAll('_', ' '), kind: 'text' as const };
  return valuesFile(format, `${cut.rows}-by-${cut.columns}`, [first, ...heads], lines);
}

/** Most rows of a slice that are taken by their keys. */
const mostOfSlice = 500_000;

/** What a slice holds by now: keys of its level, for terms their texts. */
export async function heldBySlice(
  accountId: number,
  { level, where }: Pick<TableRequest, 'level' | 'where'>,
  window: Window,
): Promise<Set<string>> {
  const request: TableRequest = {
    level,
    within: null,
    where,
    sort: null,
    descending: false,
    columns: ['name'],
    window,
    comparison: null,
  };
  const { rows } = await tableOf(accountId, request, 0, mostOfSlice);
  return new Set(rows.map(({ key, values }) => (level === 'terms' ? String(values[0]) : key)));
}
