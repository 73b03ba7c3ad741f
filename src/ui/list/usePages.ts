import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';

/** Rows of one page of a list that is read page by page. */
export const pageRows = 200;

/** How pages of a list are asked for. */
export interface PageSource<Answer> {
  /** Names the list: another filter or order is another list. */
  key: readonly unknown[];
  read: (offset: number, limit: number) => Promise<Answer>;
  staleTime?: number;
}

/** A list of any length: its first page, which tells of the whole, and the pages around what is seen. */
export function usePages<Answer, Row>(
  source: PageSource<Answer> | null,
  pages: readonly number[],
  rowsOf: (answer: Answer) => readonly Row[],
) {
  const pageQuery = (page: number) => ({
    queryKey: [...(source?.key ?? []), page],
    queryFn: () => source!.read(page * pageRows, pageRows),
    staleTime: source?.staleTime ?? 0,
  });
  const first = useQuery({ ...pageQuery(0), enabled: source !== null, placeholderData: keepPreviousData });
  const further = pages.filter((page) => page > 0);
  const others = useQueries({
    queries: source === null ? [] : further.map(pageQuery),
    combine: (results) => ({ loaded: results.map(({ data }) => data as Answer | undefined) }),
  });
  const rowAt = useMemo(() => {
    const byPage = new Map<number, readonly Row[]>();
    if (first.data) byPage.set(0, rowsOf(first.data));
    further.forEach((page, i) => {
      const data = others.loaded[i];
      if (data) byPage.set(page, rowsOf(data));
    });
    return (index: number): Row | null =>
      byPage.get(Math.floor(index / pageRows))?.[index % pageRows] ?? null;
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [first.data, others.loaded, pages]);
  return { first, rowAt };
}
