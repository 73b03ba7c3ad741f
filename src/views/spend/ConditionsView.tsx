import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { useMemo, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { ConditionsAnswer, MetRow } from '../../answers/spend.ts';
import { count, counted, percent } from '../../core/metrics/format.ts';
import { byPlacement, placementName, strategyName } from '../../core/placements/names.ts';
import { get } from '../../ui/api.ts';
import { longDay } from '../../ui/days.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Empty, Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { found } from '../../ui/list/found.ts';
import { useList } from '../../ui/list/useList.ts';
import { Field } from '../../ui/parts/fields.tsx';
import { useWindow } from '../../ui/shell/data.ts';
import { ConditionsPanel } from './ConditionsPanel.tsx';

const columnsFor = (
  answer: ConditionsAnswer,
  stateOf: (row: MetRow) => string | null,
): ListColumn<MetRow>[] => [
  {
    id: 'name',
    label: 'Campaign',
    width: 'minmax(130px, 1.2fr)',
    cell: ({ name }) => <b>{name}</b>,
    below: ({ strategy, sku }) => `${strategyName(strategy)}${sku === null ? '' : ` · ${sku}`}`,
  },
  {
    id: 'condition',
    label: 'Condition',
    width: 'minmax(130px, 1.2fr)',
    cell: ({ rank }) => `${rank + 1}. ${answer.conditions[rank]!.name}`,
    below: ({ others }) =>
      others.length === 0
        ? ''
        : `before ${others.map((rank) => `${rank + 1}. ${answer.conditions[rank]!.name}`).join(', ')}`,
  },
  {
    id: 'ratio',
    label: 'Stands at',
    width: '70px',
    isNumber: true,
    value: ({ ratio }) => ratio,
    text: percent,
    cell: ({ ratio }) => (ratio === null ? 'no sales' : percent(ratio)),
  },
  {
    id: 'clicks',
    label: 'Clicks',
    width: '58px',
    isNumber: true,
    explains: 'clicks',
    value: ({ clicks }) => clicks,
    text: count,
    cell: ({ clicks }) => count(clicks),
  },
  {
    id: 'change',
    label: 'Change',
    width: 'minmax(130px, 1fr)',
    cell: (row) =>
      stateOf(row) ??
      (row.waitsTo !== null ? (
        <span className="soft">waits until {longDay(row.waitsTo)}</span>
      ) : (
        <b>
          {placementName(row.placement)} {row.from} → {row.to} %
        </b>
      )),
    below: (row) =>
      row.beta !== 1 && stateOf(row) === null && row.waitsTo === null ? `bids × ${row.beta.toFixed(2)}` : '',
  },
];

/** Conditions of one's own on placements, and what they make of campaigns: accepted like any other finding. */
export function ConditionsView({ tabs }: { tabs: ReactNode }) {
  const window = useWindow();
  const { putLines } = useAct();
  const [text, setText] = useUrlState('q');
  const asked = useQuery({
    queryKey: ['placements', 'conditions', window?.from, window?.to],
    queryFn: () =>
      get<ConditionsAnswer>(`/api/spend/placements/conditions?from=${window!.from}&to=${window!.to}`),
    enabled: window !== null,
  });
  const answer = asked.data;
  const rows = useMemo(
    () => found(answer?.met ?? [], { text, in: ({ name, sku }) => [name, sku] }),
    [answer, text],
  );
  const list = useList(rows, ({ campaignId }) => campaignId, { about: text ?? '', address: 'campaign' });
  const stateOf = useMemo(() => {
    const [moved, bids] = [new Set(answer?.onSheet), new Set(answer?.bidsOnSheet)];
    return ({ campaignId, beta }: MetRow): string | null =>
      moved.has(campaignId)
        ? 'on the sheet'
        : beta !== 1 && bids.has(campaignId)
          ? 'its bids are on the sheet'
          : null;
  }, [answer]);
  const columns = useMemo(() => (answer ? columnsFor(answer, stateOf) : []), [answer, stateOf]);
  const isOpen = (row: MetRow) => row.waitsTo === null && stateOf(row) === null;
  const chosen = list.chosen().filter(isOpen);
  const accept = () => {
    if (!window || chosen.length === 0) return;
    void putLines(
      '/api/spend/placements/conditions',
      { ...window, campaignIds: chosen.map(({ campaignId }) => campaignId) },
      `conditions for ${counted(chosen.length, 'campaign')} accepted`,
    ).then((done) => done && list.unmark());
  };
  useHotkeys('a', accept, [chosen, window]);
  useHotkeys('slash', () => document.querySelector<HTMLInputElement>('[data-find]')?.focus(), {
    preventDefault: true,
  });
  if (!answer)
    return asked.isError ? (
      <Failed error={asked.error} onRetry={() => void asked.refetch()} />
    ) : (
      <Waiting>Asking your conditions.</Waiting>
    );
  const waiting = answer.met.filter(({ waitsTo }) => waitsTo !== null).length;
  return (
    <ListPage
      head={
        <ListHead
          title="Spend"
          tabs={tabs}
          actions={
            <Button variant="contained" disabled={chosen.length === 0} onClick={accept}>
              Accept {count(chosen.length)}
            </Button>
          }
          name="conditions"
          sentence={
            answer.conditions.length === 0 ? (
              'No condition of your own is kept. What evidence proposes stands under Campaigns; here you say yourself when a modifier moves.'
            ) : (
              <>
                <b>{counted(answer.met.length, 'campaign')}</b> of {count(answer.campaigns)}{' '}
                {answer.met.length === 1 ? 'is' : 'are'} met by{' '}
                {counted(answer.conditions.filter(({ isOn }) => isOn).length, 'condition')}
                {waiting > 0 && `; ${count(waiting)} wait after their last change`}.
              </>
            )
          }
          filters={
            <>
              <Field
                type="search"
                data-find=""
                aria-label="Find a campaign"
                placeholder="Find a campaign  /"
                value={text ?? ''}
                onChange={({ target }) => setText(target.value || null)}
                style={{ width: 170 }}
              />
              <Matching>{counted(rows.length, 'campaign')}</Matching>
            </>
          }
        />
      }
      panel={
        <ConditionsPanel
          answer={answer}
          placements={[...answer.placements].sort(byPlacement)}
          why={list.row?.sentence ?? null}
        />
      }
    >
      {rows.length === 0 ? (
        <Empty>
          {answer.conditions.length === 0
            ? 'Add one at the right.'
            : answer.met.length === 0
              ? 'No campaign is met.'
              : 'No campaign is called so.'}
        </Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <ListTable
            label="Campaigns that conditions meet"
            nouns="campaigns"
            rows={rows}
            columns={columns}
            keyOf={({ campaignId }) => campaignId}
            nameOf={({ name }) => name}
            list={list}
            isMarkable
          />
        </Box>
      )}
    </ListPage>
  );
}
