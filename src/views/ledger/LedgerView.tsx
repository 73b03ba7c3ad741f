import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useEffect, useState } from 'react';
import { at } from '../../ui/address.ts';
import { counted, decimal, money, signedMoney } from '../../core/metrics/format.ts';
import { total } from '../../core/metrics/figures.ts';
import { get, send } from '../../ui/api.ts';
import { longDay, shortDay } from '../../ui/days.ts';
import { useJob, type JobView } from '../../ui/hooks/useJob.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { JobProgress } from '../../ui/JobProgress.tsx';
import { useSeason, useSheet, type SheetLineAnswer } from '../../ui/shell/data.ts';
import { Shell } from '../../ui/shell/Shell.tsx';
import { useUndo } from '../../ui/shell/undo.ts';
import { ForecastsView } from './ForecastsView.tsx';
import { OpenLines } from './OpenLines.tsx';
import { SentLines } from './SentLines.tsx';
import type { SheetDetail, SheetSummary } from './types.ts';

export function LedgerView() {
  return (
    <Shell>
      <Ledger />
    </Shell>
  );
}

function Ledger() {
  const [chosen] = useUrlState('sheet', true);
  const sheets = useQuery({
    queryKey: ['ledger'],
    queryFn: () => get<{ sheets: SheetSummary[] }>('/api/ledger'),
  });
  const list = (sheets.data?.sheets ?? []).filter((sheet) => sheet.state !== 'open');
  const forecasts = chosen === 'forecasts';
  const open = !forecasts && (chosen === null || !list.some((sheet) => String(sheet.sheet_id) === chosen));
  const entry = (id: string | null, title: string, text: string, current: boolean) => (
    <ButtonBase
      key={id ?? 'open'}
      aria-current={current ? 'true' : undefined}
      onClick={() => setUrl({ sheet: id }, true)}
      sx={{
        display: 'block',
        width: '100%',
        textAlign: 'left',
        px: 2,
        py: 1,
        borderLeft: 3,
        borderColor: current ? 'primary.main' : 'transparent',
        bgcolor: current ? (theme) => theme.palette.roles.wash : 'transparent',
      }}
    >
      <Typography variant="body2" sx={{ fontWeight: 700 }}>
        {title}
      </Typography>
      <Typography variant="caption" color="text.secondary">
        {text}
      </Typography>
    </ButtonBase>
  );
  return (
    <Box sx={{ height: '100%', display: 'flex' }}>
      <Box
        component="nav"
        aria-label="Sheets"
        sx={{ width: 196, flexShrink: 0, borderRight: 1, borderColor: 'divider', overflowY: 'auto', py: 1.5 }}
      >
        <Typography variant="h1" sx={{ px: 2.25, pb: 1 }}>
          Ledger
        </Typography>
        {entry(null, 'Open sheet', 'what waits to be sent', open)}
        {entry('forecasts', 'Forecasts', 'said against seen', forecasts)}
        {list.map((sheet) =>
          entry(
            String(sheet.sheet_id),
            sheet.state === 'sending'
              ? `Sheet ${sheet.sheet_id}, on its way`
              : `Sheet ${sheet.sheet_id}, ${sheet.sent_on ? shortDay(sheet.sent_on) : ''}`,
            `${sheet.applied} of ${sheet.lines} applied${sheet.refused > 0 ? `, ${sheet.refused} refused` : ''}`,
            String(sheet.sheet_id) === chosen,
          ),
        )}
      </Box>
      {forecasts ? <ForecastsView /> : open ? <Open /> : <Sent key={chosen} sheetId={Number(chosen)} />}
    </Box>
  );
}

function Open() {
  const sheet = useSheet();
  const season = useSeason();
  const queries = useQueryClient();
  const push = useUndo((state) => state.push);
  const { enqueueSnackbar } = useSnackbar();
  const [busy, setBusy] = useState(false);
  const data = sheet.data;

  const act = async (work: () => Promise<string | null>) => {
    setBusy(true);
    try {
      const message = await work();
      if (message) enqueueSnackbar(message);
    } catch (error) {
      enqueueSnackbar((error as Error).message, { variant: 'error', autoHideDuration: 8000 });
    } finally {
      setBusy(false);
      void queries.invalidateQueries({ queryKey: ['sheet'] });
      void queries.invalidateQueries({ queryKey: ['ledger'] });
    }
  };
  const onRemove = (lines: SheetLineAnswer[], label: string) =>
    void act(async () => {
      const lineIds = lines.map((line) => line.line_id);
      await send('POST', '/api/sheet/lines', { lineIds });
      push({ kind: 'remove', label, lineIds });
      return `${label}. ctrl z puts it back.`;
    });
  const onEdit = (line: SheetLineAnswer, change: { newValue?: string; rebase?: boolean }) =>
    void act(async () => {
      await send('POST', `/api/sheet/lines/${line.line_id}`, { ...change, version: line.version });
      return null;
    });
  const onSend = () =>
    void act(async () => {
      const { sheetId } = await send<{ sheetId: number }>('POST', '/api/sheet/send', {
        lines: data?.lines.length,
      });
      setUrl({ sheet: String(sheetId) }, true);
      return null;
    });

  const onCarried = (lines: SheetLineAnswer[] | null) =>
    void act(async () => {
      const done = await send<{ sheetId: number; lines: number; left: number }>(
        'POST',
        '/api/sheet/carried',
        {
          lineIds: lines?.map((line) => line.line_id) ?? null,
          lines: data?.lines.length,
        },
      );
      void queries.invalidateQueries();
      if (done.left === 0) setUrl({ sheet: String(done.sheetId) }, true);
      return `${counted(done.lines, 'line')} noted as applied, as sheet ${done.sheetId}.`;
    });

  if (!data) {
    return (
      <Typography sx={{ p: 4 }}>{sheet.isError ? sheet.error.message : 'Opening the sheet.'}</Typography>
    );
  }
  const source = season.data?.account.source ?? 'the marketplace';
  const none = data.lines.length === 0;
  return (
    <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ px: 2, py: 1.5, display: 'flex', gap: 2, alignItems: 'center' }}>
        <Typography sx={{ flex: 1, fontSize: 14 }} data-testid="sheet-sentence">
          {none ? (
            'The open sheet is empty. Accept findings in Round; they gather here until you send them or carry them over.'
          ) : (
            <>
              <b>{data.lines.length} lines</b> should change spend by <b>{signedMoney(data.effect.spend)}</b>{' '}
              ± {money(data.effect.spendSpread)} and sales by <b>{signedMoney(data.effect.sales)}</b> ±{' '}
              {money(data.effect.salesSpread)} a week, by {decimal(data.effect.orders)} orders
              {data.effect.profit !== null && `, ad profit by ${signedMoney(data.effect.profit)}`}.
              {data.conflicts > 0 && ` ${data.conflicts} lines conflict: keep one of each before sending.`}
              {data.overtaken > 0 && ` ${data.overtaken} have been overtaken by another change.`}
            </>
          )}
        </Typography>
        {!none && (
          <>
            <Button href={at(`/api/ledger/${data.sheetId}/export`)} download>
              Export as CSV
            </Button>
            {source === 'files' ? (
              <Button
                variant="contained"
                disabled={busy || data.conflicts > 0}
                onClick={() => onCarried(null)}
              >
                Mark {counted(data.lines.length, 'line')} as applied
              </Button>
            ) : (
              <Button variant="contained" disabled={busy || data.conflicts > 0} onClick={onSend}>
                Send {counted(data.lines.length, 'line')} to {source}
              </Button>
            )}
          </>
        )}
      </Box>
      <Box
        sx={{
          flex: 1,
          minHeight: 0,
          overflowY: 'auto',
          bgcolor: 'background.paper',
          borderTop: 1,
          borderColor: 'text.primary',
        }}
      >
        {!none && (
          <OpenLines
            lines={data.lines}
            onRemove={onRemove}
            onEdit={onEdit}
            {...(source === 'files' ? { onApplied: onCarried } : {})}
          />
        )}
      </Box>
    </Box>
  );
}

function Sent({ sheetId }: { sheetId: number }) {
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const push = useUndo((state) => state.push);
  const detail = useQuery({
    queryKey: ['ledger', sheetId],
    queryFn: () => get<SheetDetail>(`/api/ledger/${sheetId}`),
  });
  const state = detail.data?.sheet.state;
  const sending = state === 'sending';
  useEffect(() => {
    // A short sheet can be sent before anybody hears of its job: its flag is fetched whenever it is seen to be sent.
    if (state === 'sent') void queries.invalidateQueries({ queryKey: ['season'] });
  }, [state, queries]);
  const jobs = useQuery({
    queryKey: ['jobs', sheetId, sending],
    queryFn: () => get<{ jobs: (JobView & { payload: { sheetId?: number } })[] }>('/api/jobs'),
    enabled: sending,
  });
  const jobId =
    jobs.data?.jobs.find((job) => job.kind === 'send' && job.payload.sheetId === sheetId)?.job_id ?? null;
  const job = useJob(sending ? jobId : null, (ended) => {
    if (ended.state === 'done') {
      const { applied, refused } = ended.result as { applied: number; refused: number };
      enqueueSnackbar(`${applied} lines applied${refused > 0 ? `, ${refused} refused` : ''}.`);
    }
    void queries.invalidateQueries();
  });
  const data = detail.data;
  if (!data) {
    return (
      <Typography sx={{ p: 4 }}>{detail.isError ? detail.error.message : 'Opening the sheet.'}</Typography>
    );
  }
  const refused = data.lines.filter((line) => line.state === 'refused').length;
  const applied = data.lines.filter((line) => line.state === 'applied').length;

  const call = async (path: string, body: unknown, done: (lines: number) => string, undo: boolean) => {
    try {
      const answer = await send<{ lines: number; groups?: string[] }>(
        'POST',
        `/api/ledger/${sheetId}/${path}`,
        body,
      );
      if (undo && answer.groups) push({ kind: 'accept', label: 'revert', groups: answer.groups });
      enqueueSnackbar(done(answer.lines));
    } catch (error) {
      enqueueSnackbar((error as Error).message, { variant: 'error', autoHideDuration: 8000 });
    }
    void queries.invalidateQueries();
  };
  const revert = (lineIds: number[] | null) =>
    void call(
      'revert',
      { lineIds },
      (lines) =>
        lines === 0
          ? 'The sheet takes that back already.'
          : `${lines} reverting line${lines === 1 ? '' : 's'} on the open sheet.`,
      true,
    );
  const before = total(
    data.lines.flatMap((line) => (line.before ? [{ ...line.before, impressions: 0, units: 0 }] : [])),
  );
  const after = total(
    data.lines.flatMap((line) => (line.after ? [{ ...line.after, impressions: 0, units: 0 }] : [])),
  );
  return (
    <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ px: 2, py: 1.5, display: 'flex', gap: 1.5, alignItems: 'center' }}>
        <Box sx={{ flex: 1, fontSize: 14 }} data-testid="sent-sentence">
          {sending && job && job.state !== 'failed' && (
            <JobProgress job={job} title="Sending" cancellable={false} />
          )}
          {sending && job?.state === 'failed' && (
            <Typography color="error" variant="body2">
              {job.message} Lines that went through are kept; going on applies nothing twice.
            </Typography>
          )}
          {!sending && (
            <>
              <b>
                {applied} of {data.lines.length} lines applied
              </b>
              {data.sheet.sent_on && ` on ${longDay(data.sheet.sent_on)}`}
              {refused > 0 && `, ${refused} refused`}.{' '}
              {data.windows
                ? `What they touch, ${data.days} settled day${data.days === 1 ? '' : 's'} each side: spend ${money(before.spend)} before, ${money(after.spend)} after; sales ${money(before.sales)} before, ${money(after.sales)} after.`
                : 'Before and after appear once days after sending have settled.'}
            </>
          )}
        </Box>
        {sending && job?.state === 'failed' && (
          <Button variant="contained" onClick={() => void call('resume', {}, () => 'Going on.', false)}>
            Go on sending
          </Button>
        )}
        {refused > 0 && (
          <Button
            onClick={() =>
              void call('repair', {}, (lines) => `${lines} lines are back on the open sheet.`, false)
            }
          >
            Repair {refused} refused
          </Button>
        )}
        {!sending && (
          <Button href={at(`/api/ledger/${sheetId}/export`)} download>
            Export as CSV
          </Button>
        )}
        {!sending && applied > 0 && <Button onClick={() => revert(null)}>Revert the sheet</Button>}
      </Box>
      <Box
        sx={{
          flex: 1,
          minHeight: 0,
          overflow: 'auto',
          bgcolor: 'background.paper',
          borderTop: 1,
          borderColor: 'text.primary',
        }}
      >
        <SentLines lines={data.lines} onRevert={(lineId) => revert([lineId])} />
      </Box>
    </Box>
  );
}
