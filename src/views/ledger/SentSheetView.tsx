import type { JobAnswer } from '../../answers/account.ts';
import { Figure } from '../../ui/parts/Figure.tsx';
import { useAct } from '../../ui/hooks/useAct.ts';
import { ListHead, Failed, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useEffect } from 'react';
import type { SheetDetail, SheetEffect } from '../../answers/changes.ts';
import type { Outcome } from '../../core/effect/outcome.ts';
import { acos } from '../../core/metrics/figures.ts';
import { count, counted, money, percent, signedMoney } from '../../core/metrics/format.ts';
import { at } from '../../ui/address.ts';
import { get, send } from '../../ui/api.ts';
import { longDay } from '../../ui/days.ts';
import { useJob } from '../../ui/hooks/useJob.ts';
import { JobProgress } from '../../ui/parts/JobProgress.tsx';
import { LineFilters, useLineView, viewProblems } from './LineFilters.tsx';
import { outcomeTitle } from './OutcomeText.tsx';
import { SentLines } from './SentLines.tsx';

/** A sheet that has left, or is on its way: what came back, and what happened before and after. */
export function SentSheetView({ sheetId }: { sheetId: number }) {
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const { act, putLines } = useAct();
  const view = useLineView();
  const detail = useQuery({
    queryKey: ['ledger', sheetId],
    queryFn: () => get<SheetDetail>(`/api/ledger/${sheetId}`),
  });
  const state = detail.data?.sheet.state;
  const sending = state === 'sending';
  useEffect(() => {
    // A short sheet can be sent before anybody hears of its job: whenever it is seen to be sent, its flag is fetched, and
    // the list of sheets, which may have been read while it was on its way.
    if (state !== 'sent') return;
    void queries.invalidateQueries({ queryKey: ['season'] });
    void queries.invalidateQueries({ queryKey: ['ledger'], exact: true });
  }, [state, queries]);
  const jobs = useQuery({
    queryKey: ['jobs', sheetId, sending],
    queryFn: () => get<{ jobs: (JobAnswer & { payload: { sheetId?: number } })[] }>('/api/jobs'),
    enabled: sending,
  });
  const jobId =
    jobs.data?.jobs.find((job) => job.kind === 'send' && job.payload.sheetId === sheetId)?.job_id ?? null;
  const job = useJob(sending ? jobId : null, (ended) => {
    if (ended.state === 'done') {
      const { applied, refused } = ended.result as { applied: number; refused: number };
      enqueueSnackbar(
        `${counted(applied, 'line')} applied${refused > 0 ? `, ${count(refused)} refused` : ''}.`,
      );
    }
    void queries.invalidateQueries();
  });
  const data = detail.data;
  if (!data)
    return detail.isError ? (
      <Failed error={detail.error} onRetry={() => void detail.refetch()} />
    ) : (
      <Waiting>Opening the sheet.</Waiting>
    );
  const { lines, applied, refused } = data.counts;

  const again = { onFail: () => void queries.invalidateQueries() };
  const call = (path: string, said: (lines: number) => string) =>
    void act(
      () => send<{ lines: number }>('POST', `/api/ledger/${sheetId}/${path}`),
      ({ lines }) => said(lines),
      again,
    );
  const revert = (lineIds: number[] | null) =>
    void putLines(`/api/ledger/${sheetId}/revert`, { lineIds }, 'revert', {
      said: (made) =>
        made === 0
          ? 'The sheet takes that back already.'
          : `${counted(made, 'reverting line')} on the open sheet. ctrl z takes ${made === 1 ? 'it' : 'them'} back.`,
      ...again,
    });
  const stopped = sending && job?.state === 'failed';
  return (
    <ListPage
      problems={viewProblems()}
      head={
        <ListHead
          name="sent"
          sentence={
            <>
              {sending && job && !stopped && <JobProgress job={job} title="Sending" cancellable={false} />}
              {stopped && (
                <Typography color="error" variant="body2">
                  {job.message} Lines that went through are kept; going on applies nothing twice.
                </Typography>
              )}
              {!sending && (
                <>
                  <b>
                    {count(applied)} of {counted(lines, 'line')} applied
                  </b>
                  {data.sheet.sent_on && ` on ${longDay(data.sheet.sent_on)}`}
                  {refused > 0 && `, ${count(refused)} refused`}.{' '}
                  <BeforeAndAfter sheetId={sheetId} detail={data} />
                </>
              )}
            </>
          }
          actions={
            <>
              {stopped && (
                <Button variant="contained" onClick={() => call('resume', () => 'Going on.')}>
                  Go on sending
                </Button>
              )}
              {refused > 0 && (
                <Button
                  onClick={() => call('repair', (back) => `${counted(back, 'line')} back on the open sheet.`)}
                >
                  Repair {count(refused)} refused
                </Button>
              )}
              {!sending && (
                <Button href={at(`/api/ledger/${sheetId}/export`)} download>
                  Export as CSV
                </Button>
              )}
              {!sending && applied > 0 && <Button onClick={() => revert(null)}>Revert the sheet</Button>}
            </>
          }
          filters={<LineFilters view={view} counts={{ all: lines, refused }} />}
        />
      }
    >
      <SentLines sheetId={sheetId} view={view} onRevert={(lineId) => revert([lineId])} />
    </ListPage>
  );
}

/** Whether the sheet worked, by its gain against the goal. */
function outcomeSentence({ verdict, change, low, high }: Outcome): string {
  if (verdict === 'too early')
    return 'Too early to say whether it worked: no whole week after it has settled.';
  const range = `${signedMoney(change)} a week (${signedMoney(low)} to ${signedMoney(high)})`;
  if (verdict === 'undecided') return `Whether it worked is undecided: gain against the goal ${range}.`;
  return `It made things ${verdict}: gain against the goal ${range}.`;
}

/** What everything that the sheet touched did before and after; said once it has been added up. */
function BeforeAndAfter({ sheetId, detail: { windows, days } }: { sheetId: number; detail: SheetDetail }) {
  const sums = useQuery({
    queryKey: ['ledger', sheetId, 'effect'],
    queryFn: () => get<{ effect: SheetEffect | null }>(`/api/ledger/${sheetId}/effect`),
    enabled: windows !== null,
  });
  if (!windows) return <>Before and after appear once days after sending have settled.</>;
  const effect = sums.data?.effect;
  if (!effect)
    return (
      <>
        {`What they touch, ${counted(days, 'settled day')} each side: `}
        {sums.isError ? sums.error.message : 'adding up.'}
      </>
    );
  const { before, after, outcome, overtaken } = effect;
  const left = overtaken > 0 ? ` (${counted(overtaken, 'line')} changed again before left out)` : '';
  const touched = `What they touch, ${counted(effect.days, 'settled day')} each side${left}: `;
  return (
    <>
      {touched}
      {`spend ${money(before.spend)} before, ${money(after.spend)} after; sales ${money(before.sales)} before, ${money(after.sales)} after; ACOS ${percent(acos(before))} before, ${percent(acos(after))} after. `}
      <Figure name="outcome" label="Did it work?">
        <span title={outcomeTitle(outcome)} data-testid="sheet-outcome">
          {outcomeSentence(outcome)}
        </span>
      </Figure>
    </>
  );
}
