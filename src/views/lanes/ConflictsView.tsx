import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import type { Conflict, ConflictKind } from '../../core/terms/conflicts.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { get, send } from '../../ui/api.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { useAct } from '../../ui/hooks/useAct.ts';
import { listKeys, useList } from '../../ui/hooks/useList.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { ListTable, type ListColumn } from '../../ui/parts/ListTable.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { KeyHints, type KeyHelp } from '../../ui/shell/Keys.tsx';
import { useUndo } from '../../ui/undo.ts';
import { Waiting, type PartProps } from './parts.tsx';

type Row = Omit<Conflict, 'drafts'> & { lines: number };

interface ConflictsAnswer {
  kinds: Record<ConflictKind, string>;
  conflicts: Row[];
  putOff: number;
  onSheet: number;
}

export const conflictsHelp: KeyHelp[] = [
  ...listKeys,
  { keys: ['a'], does: 'accept the repair of what is marked, else of the row in focus' },
  { keys: ['s'], does: 'skip' },
  { keys: ['l'], does: 'later: come back after 7 days' },
];

const columnsOf = (kinds: ConflictsAnswer['kinds']): ListColumn<Row>[] => [
  {
    id: 'subject',
    label: 'What is in its own way',
    width: 'minmax(190px, 1fr)',
    cell: (row) => <b>{row.subject}</b>,
    below: (row) => kinds[row.kind],
  },
  {
    id: 'sentence',
    isLong: true,
    label: 'Why',
    width: 'minmax(240px, 1.8fr)',
    cell: (row) => <span title={row.sentence}>{row.sentence}</span>,
  },
  {
    id: 'repair',
    isLong: true,
    label: 'Repair',
    width: 'minmax(160px, 1fr)',
    cell: (row) =>
      row.repair ? (
        <span title={row.repair}>{row.repair}</span>
      ) : (
        <span className="soft">yours to decide</span>
      ),
  },
  {
    id: 'cost',
    label: 'A week',
    width: '70px',
    isNumber: true,
    cell: (row) => (row.cost > 0 ? <b>{money(row.cost)}</b> : '–'),
  },
];

/** What is in its own way, with what it costs a week and a repair that goes onto the sheet. */
export function ConflictsView({ window, currency, head }: PartProps) {
  const [kind, setKind] = useUrlState('kind');
  const push = useUndo((undo) => undo.push);
  const { act, putLines } = useAct();
  const conflicts = useQuery({
    queryKey: ['conflicts', window.from, window.to],
    queryFn: () => get<ConflictsAnswer>(`/api/terms/conflicts?from=${window.from}&to=${window.to}`),
    placeholderData: (previous) => previous,
  });
  const answer = conflicts.data;
  const rows = (answer?.conflicts ?? []).filter((row) => kind === null || row.kind === kind);
  const list = useList(rows, ({ key }) => key, kind ?? '');
  const accept = (chosen: Row[]) => {
    const keys = chosen.filter(({ lines }) => lines > 0).map(({ key }) => key);
    if (keys.length === 0) return;
    list.unmark();
    void putLines(
      () => send('POST', '/api/terms/conflicts', { from: window.from, to: window.to, keys }),
      keys.length === 1 ? 'one repair' : `${count(keys.length)} repairs`,
    );
  };
  const decide = (chosen: Row[], decision: 'skipped' | 'later') => {
    const keys = chosen.map(({ key }) => key);
    if (keys.length === 0) return;
    list.unmark();
    const label = `${counted(keys.length, 'conflict')} ${decision === 'later' ? 'put off' : 'skipped'}`;
    void act(async () => {
      await send('POST', '/api/round/decide', { keys, decision });
      push({ kind: 'decide', label, keys });
    }, `${label}. ctrl z brings them back.`);
  };
  useHotkeys('a', () => accept(list.chosen()), [list]);
  useHotkeys('s', () => decide(list.chosen(), 'skipped'), [list]);
  useHotkeys('l', () => decide(list.chosen(), 'later'), [list]);
  if (conflicts.isError && !answer) return <Typography sx={{ p: 4 }}>{conflicts.error.message}</Typography>;
  if (!answer) return <Waiting>Looking for what is in its own way.</Waiting>;
  const cost = answer.conflicts.reduce((sum, row) => sum + row.cost, 0);
  const repairable = rows.filter((row) => list.marked.has(row.key) && row.lines > 0).length;
  const row = list.row;
  return (
    <Box sx={{ height: '100%', display: 'flex' }}>
      <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
        <Box sx={{ px: 2.25, pt: 1.5, pb: 1, display: 'grid', gap: 0.75 }}>
          {head}
          <Typography data-testid="conflicts-sentence" sx={{ fontSize: 14 }}>
            <b>{counted(answer.conflicts.length, 'conflict')}</b> cost{' '}
            <b>
              {currency} {money(cost)} a week
            </b>
            .{answer.onSheet > 0 && ` ${count(answer.onSheet)} are on the sheet.`}
            {answer.putOff > 0 && ` ${count(answer.putOff)} put off or skipped.`}
          </Typography>
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
            <Choice
              aria-label="Kind of conflict"
              value={kind ?? ''}
              onChange={(event) => setKind(event.target.value)}
              sx={{ maxWidth: 360 }}
            >
              <option value="">All kinds</option>
              {Object.entries(answer.kinds).map(([id, name]) => (
                <option key={id} value={id}>
                  {name} ({count(answer.conflicts.filter((one) => one.kind === id).length)})
                </option>
              ))}
            </Choice>
            <Box sx={{ flex: 1 }} />
            {list.markedHere > 0 && (
              <>
                <Button size="small" onClick={() => decide(list.chosen(), 'later')}>
                  Later
                </Button>
                <Button size="small" onClick={() => decide(list.chosen(), 'skipped')}>
                  Skip
                </Button>
                <Button
                  size="small"
                  variant="contained"
                  disabled={repairable === 0}
                  onClick={() => accept(list.chosen())}
                >
                  Accept {count(repairable)} repairs
                </Button>
              </>
            )}
            <Typography variant="body2" color="text.secondary" noWrap>
              {count(rows.length)} match
            </Typography>
          </Box>
        </Box>
        {rows.length === 0 ? (
          <Box sx={{ p: 4, borderTop: 1, borderColor: 'divider', flex: 1 }}>
            <Typography>
              {answer.conflicts.length === 0
                ? 'Nothing is in its own way.'
                : 'Nothing of this kind is in its own way.'}
            </Typography>
          </Box>
        ) : (
          <ListTable
            label="Conflicts"
            rows={rows}
            columns={columnsOf(answer.kinds)}
            keyOf={({ key }) => key}
            nameOf={({ subject }) => subject}
            about={list.about}
            focus={list.focus}
            onFocus={list.moveTo}
            marked={list.marked}
            onMark={list.mark}
            sort="cost"
            descending
          />
        )}
      </Box>
      <Panel label="The conflict in focus">
        {row && (
          <>
            <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
              {row.subject}
            </Typography>
            <Typography variant="caption" color="text.secondary">
              {answer.kinds[row.kind]}
            </Typography>
            <Typography sx={{ mt: 0.75, fontSize: 14, lineHeight: 1.45 }}>{row.sentence}</Typography>
            <Part title="What it costs a week">
              {row.cost > 0 ? money(row.cost) : 'Nothing that is known.'}
            </Part>
            <Part title="Repair">
              {row.repair ?? (
                <>
                  There is none that lines on a sheet could make. Give it a performance ad group, then a{' '}
                  <Link href={at(`/lanes?sku=${encodeURIComponent(row.sku ?? '')}`)}>lane</Link>.
                </>
              )}
            </Part>
            <Part title="Look closer">
              {row.kind === 'no_product' || row.kind === 'no_performance' ? (
                <Link href={at('/explore?level=ad_groups')}>Its ad groups</Link>
              ) : (
                <Link href={at(`/lanes?view=coverage&term=${encodeURIComponent(row.subject)}`)}>
                  Everything that bids on it or blocks it
                </Link>
              )}
            </Part>
            <KeyHints
              keys={[
                ['a', 'accept'],
                ['s', 'skip'],
                ['l', 'later'],
              ]}
            />
          </>
        )}
      </Panel>
    </Box>
  );
}
