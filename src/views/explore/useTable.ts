import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { Level } from '../../core/explore/columns.ts';
import type { TableAnswer, TableRow } from '../../core/explore/answers.ts';
import type { Condition } from '../../core/explore/conditions.ts';
import type { Window } from '../../core/metrics/days.ts';
import { ask } from '../../ui/api.ts';
import type { ExploreState } from './state.ts';

export const pageRows = 200;

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

const pageQuery = (request: TableRequest, page: number) => ({
  queryKey: ['explore', request, page],
  queryFn: () =>
    ask<TableAnswer>('/api/explore/table', { ...request, offset: page * pageRows, limit: pageRows }),
  staleTime: 60_000,
});

/** The table in view: its first page with count and totals, and the pages around what is seen. */
export function useTable(request: TableRequest | null, pages: readonly number[]) {
  const first = useQuery({
    ...pageQuery(request!, 0),
    enabled: request !== null,
    placeholderData: keepPreviousData,
  });
  const others = useQueries({
    queries: request === null ? [] : pages.filter((page) => page > 0).map((page) => pageQuery(request, page)),
    combine: (results) => ({ loaded: results.map(({ data }) => data) }),
  });
  const rowAt = useMemo(() => {
    const byPage = new Map<number, TableRow[]>();
    if (first.data) byPage.set(0, first.data.rows);
    pages
      .filter((page) => page > 0)
      .forEach((page, i) => {
        const data = others.loaded[i];
        if (data) byPage.set(page, data.rows);
      });
    return (index: number): TableRow | null =>
      byPage.get(Math.floor(index / pageRows))?.[index % pageRows] ?? null;
  }, [first.data, others.loaded, pages]);
  return { first, rowAt };
}

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
