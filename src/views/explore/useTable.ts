import type { Level } from '../../core/account/levels.ts';
import type { TableAnswer, TableRow } from '../../answers/explore.ts';
import type { Condition } from '../../core/explore/conditions.ts';
import type { Window } from '../../core/metrics/days.ts';
import { ask } from '../../ui/api.ts';
import { usePages } from '../../ui/list/usePages.ts';
import type { ExploreState } from './state.ts';

/** What a call says of the table in view. */
export interface TableRequest {
  level: Level;
  within: ExploreState['within'];
  where: Condition | null;
  sort: string | null;
  descending: boolean;
  columns: string[];
  window: Window;
  comparison: Window | null;
}

export const requestOf = (state: ExploreState, window: Window, comparison: Window | null): TableRequest => ({
  level: state.level,
  within: state.within,
  where: state.where,
  sort: state.sort,
  descending: state.descending,
  columns: state.columns.map(({ ref }) => ref),
  window,
  comparison,
});

/** The table in view: its first page with count and totals, and the pages around what is seen. */
export const useTable = (request: TableRequest | null, pages: readonly number[]) =>
  usePages<TableAnswer, TableRow>(
    request && {
      key: ['explore', request],
      read: (offset, limit) => ask<TableAnswer>('/api/explore/table', { ...request, offset, limit }),
      staleTime: 60_000,
    },
    pages,
    rowsOf,
  );

const rowsOf = ({ rows }: TableAnswer): readonly TableRow[] => rows;

const mostOfACall = 2000;

/** Rows from one place to another, loaded or not: what is marked, copied or pasted must not end where the view does. */
export async function rowsBetween(request: TableRequest, from: number, to: number): Promise<TableRow[]> {
  const rows: TableRow[] = [];
  for (let offset = from; offset <= to; offset += mostOfACall) {
    const limit = Math.min(mostOfACall, to - offset + 1);
    rows.push(...(await ask<TableAnswer>('/api/explore/table', { ...request, offset, limit })).rows);
  }
  return rows;
}
