import { useQuery } from '@tanstack/react-query';
import { levelNames } from '../../core/account/levels.ts';
import { columnLabel } from '../../core/explore/columns.ts';
import type { Usual } from '../../core/metrics/explains.ts';
import { ask } from '../../ui/api.ts';
import { Explanation } from '../../ui/parts/Explanation.tsx';
import { cellText } from './cells.ts';
import type { TableColumn } from './layout.ts';
import type { TableRequest } from './useTable.ts';

interface ExplainsProps {
  column: TableColumn;
  request: TableRequest;
}

/** What a column is, and what is usual among all the rows that match, of which only some are here. */
export function Explains({ column, request }: ExplainsProps) {
  const isNumber = column.column.kind !== 'text' && column.column.kind !== 'day';
  const usual = useQuery({
    queryKey: ['explore usual', column.ref, request],
    queryFn: () =>
      ask<{ usual: Usual | null }>('/api/explore/usual', { ...request, columns: [column.ref], sort: null }),
    enabled: isNumber && !column.column.shownOnly,
    staleTime: 60_000,
    retry: false,
  });
  return (
    <Explanation
      label={columnLabel(column)}
      name={column.column.name}
      usual={isNumber ? usual.data?.usual : undefined}
      text={(value) => cellText(column, value)}
      nouns={levelNames[request.level].many.toLowerCase()}
    />
  );
}
