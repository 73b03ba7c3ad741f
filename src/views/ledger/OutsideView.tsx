import Link from '@mui/material/Link';
import { useQuery } from '@tanstack/react-query';
import type { OutsideAnswer, OutsideChange } from '../../answers/changes.ts';
import { fieldOf } from '../../core/changes/fields.ts';
import { counted } from '../../core/metrics/format.ts';
import { at } from '../../ui/address.ts';
import { get } from '../../ui/api.ts';
import { longDay, shortDay } from '../../ui/days.ts';
import { useSort } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { useList } from '../../ui/list/useList.ts';
import { outsideText } from '../../ui/outsideText.ts';

const whatOf = ({ entity, field, matchType, targetKind }: OutsideChange): string => {
  if (entity === 'placement_modifier') return `Modifier, ${field.replaceAll('_', ' ')}`;
  const label = fieldOf(entity, field)?.label ?? field;
  const thing =
    entity === 'target'
      ? targetKind === 'keyword'
        ? `${matchType ?? ''} keyword`
        : `${targetKind ?? ''} target`
      : entity.replace('_', ' ');
  return `${label} of ${thing}`;
};
const whereOf = ({ entity, expression, adGroup, campaign }: OutsideChange): [string, string] =>
  entity === 'target'
    ? [expression ?? '', `${adGroup ?? ''} in ${campaign}`]
    : entity === 'ad_group'
      ? [adGroup ?? '', `in ${campaign}`]
      : [campaign, 'campaign'];

const columns: ListColumn<OutsideChange>[] = [
  { id: 'day', label: 'Seen', width: '64px', sorts: true, cell: ({ day }) => shortDay(day) },
  { id: 'what', label: 'What', width: 'minmax(150px, 1fr)', sorts: true, cell: whatOf },
  {
    id: 'where',
    label: 'Where',
    width: 'minmax(200px, 1.6fr)',
    sorts: true,
    cell: (row) => <b>{whereOf(row)[0]}</b>,
    below: (row) => whereOf(row)[1],
  },
  {
    id: 'old',
    label: 'Before',
    width: '110px',
    isNumber: true,
    cell: (row) => outsideText(row, row.oldValue),
  },
  {
    id: 'new',
    label: 'Then',
    width: '110px',
    isNumber: true,
    cell: (row) => <b>{outsideText(row, row.newValue)}</b>,
  },
];
const sorts = {
  day: ({ day }: OutsideChange) => day,
  what: whatOf,
  where: (row: OutsideChange) => whereOf(row).join(' '),
};
const keyOf = ({ day, entity, objectId, field }: OutsideChange) => `${day} ${entity} ${objectId} ${field}`;

/** What somebody changed at the marketplace and not by a sheet, as each fetch found it. */
export function OutsideView() {
  const outside = useQuery({
    queryKey: ['outside'],
    queryFn: () => get<OutsideAnswer>('/api/ledger/outside'),
  });
  const { sort, descending, onSort } = useSort(Object.keys(sorts) as (keyof typeof sorts)[], 'day', []);
  const rows = [...(outside.data?.changes ?? [])].sort((a, b) => {
    const [x, y] = [sorts[sort](a), sorts[sort](b)];
    return (x < y ? -1 : x > y ? 1 : 0) * (descending ? -1 : 1);
  });
  const list = useList(rows, keyOf, { about: `outside ${sort} ${descending}` });
  if (!outside.data)
    return outside.isError ? (
      <Failed error={outside.error} onRetry={() => void outside.refetch()} />
    ) : (
      <Waiting>Reading what was changed elsewhere.</Waiting>
    );
  const { count } = outside.data;
  const newest = outside.data.changes[0];
  return (
    <ListPage
      head={
        <ListHead
          name="outside"
          sentence={
            newest ? (
              <>
                <b>{counted(count, 'change')}</b> at the marketplace that no sheet made, the newest seen on{' '}
                {longDay(newest.day)}. Their bids cool down like any other.
              </>
            ) : (
              'Nothing was changed at the marketplace but by sheets.'
            )
          }
          filters={count > rows.length && <Matching>the newest {counted(rows.length, 'change')}</Matching>}
        />
      }
    >
      {rows.length === 0 ? (
        <Empty>
          Each fetch holds what it finds against what was known: what differs and came by no sheet stands
          here. <Link href={at('/data')}>Fetch now</Link>
        </Empty>
      ) : (
        <ListTable
          label="Changed outside"
          nouns="changes"
          rows={rows}
          columns={columns}
          keyOf={keyOf}
          nameOf={(row) => `${whatOf(row)} ${whereOf(row)[0]}`}
          list={list}
          sort={sort}
          descending={descending}
          onSort={onSort}
        />
      )}
    </ListPage>
  );
}
