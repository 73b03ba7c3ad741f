import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { levelNames } from '../../core/account/levels.ts';
import { columnLabel } from '../../core/explore/columns.ts';
import { explainOf, type Usual } from '../../core/explore/explains.ts';
import { count } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { cellText } from './cells.ts';
import type { TableColumn } from './layout.ts';
import type { TableRequest } from './useTable.ts';

interface ExplainsProps {
  column: TableColumn;
  request: TableRequest;
}

/** What a column is, how it is reckoned, what it cannot tell, and what is usual among the rows that match. */
export function Explains({ column, request }: ExplainsProps) {
  const explained = explainOf(column.column.name);
  const isNumber = column.column.kind !== 'text' && column.column.kind !== 'day';
  const usual = useQuery({
    queryKey: ['explore usual', column.ref, request],
    queryFn: () =>
      ask<{ usual: Usual | null }>('/api/explore/usual', { ...request, columns: [column.ref], sort: null }),
    enabled: isNumber && !column.column.shownOnly,
    staleTime: 60_000,
    retry: false,
  });
  const found = usual.data?.usual;
  const text = (value: number) => cellText(column, value);
  const nouns = levelNames[request.level].many.toLowerCase();
  return (
    <Box
      data-testid="explains"
      sx={{ display: 'grid', gap: 0.5, fontSize: 12.5, lineHeight: 1.4, maxWidth: 260 }}
    >
      <b>{columnLabel(column)}</b>
      {explained && (
        <>
          <span>{explained.what}</span>
          {explained.how && <span>{explained.how}</span>}
          {explained.not && <i>{explained.not}</i>}
        </>
      )}
      {found && (
        <span>
          Half of these {count(found.rows)} {nouns} lie between <b>{text(found.low)}</b> and{' '}
          <b>{text(found.high)}</b>; the middle one has <b>{text(found.middle)}</b>.
        </span>
      )}
      {isNumber && usual.data && !found && (
        <span>Too few of these rows have a value to say what is usual.</span>
      )}
    </Box>
  );
}
