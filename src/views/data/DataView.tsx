import type { JobAnswer } from '../../answers/account.ts';
import type {
  TakenBack,
  ImportsAnswer,
  LoadResult,
  PackagePreview,
  PackageResult,
  Preview,
} from '../../answers/imports.ts';
import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useRef, useState, type DragEvent } from 'react';
import { at } from '../../ui/address.ts';
import { count, counted } from '../../core/metrics/format.ts';
import { ask, get, send, upload } from '../../ui/api.ts';
import { instant, longDay } from '../../ui/days.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useJob } from '../../ui/hooks/useJob.ts';
import { JobProgress } from '../../ui/parts/JobProgress.tsx';
import { useSeason } from '../../ui/shell/data.ts';
import { Shell } from '../../ui/shell/Shell.tsx';
import { AccountSettings } from './AccountSettings.tsx';
import { LoadPreview } from './LoadPreview.tsx';

export function DataView() {
  return (
    <Shell>
      <Data />
    </Shell>
  );
}

const titles: Record<string, string> = {
  fetch: 'Fetching from the marketplace',
  load: 'Loading the file',
  load_package: 'Loading the package',
  advance: 'Letting time pass',
};

function Data() {
  const queries = useQueryClient();
  const season = useSeason();
  const { enqueueSnackbar } = useSnackbar();
  const imports = useQuery({ queryKey: ['imports'], queryFn: () => get<ImportsAnswer>('/api/imports') });
  const jobs = useQuery({ queryKey: ['jobs'], queryFn: () => get<{ jobs: JobAnswer[] }>('/api/jobs') });
  const [started, setStarted] = useState<string | null>(null);
  const [preview, setPreview] = useState<Preview | PackagePreview | null>(null);
  const [ended, setEnded] = useState<JobAnswer | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const file = useRef<HTMLInputElement>(null);

  // Work that was begun before this page was opened is followed too.
  const running = jobs.data?.jobs.find(
    (job) => ['waiting', 'running'].includes(job.state) && job.kind !== 'send' && job.kind !== 'steer',
  );
  const job = useJob(started ?? running?.job_id ?? null, (done) => {
    setEnded(done);
    setStarted(null);
    void queries.invalidateQueries();
  });
  const busy = job !== null && ['waiting', 'running'].includes(job.state);

  const begin = async (path: string, body: object = {}) => {
    setProblem(null);
    setEnded(null);
    try {
      setStarted((await send<{ jobId: string }>('POST', path, body)).jobId);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const look = async (chosen: File | undefined) => {
    if (!chosen) return;
    setProblem(null);
    setEnded(null);
    setPreview(null);
    try {
      setPreview(
        await upload<Preview | PackagePreview>(`/api/files?name=${encodeURIComponent(chosen.name)}`, chosen),
      );
    } catch (error) {
      setProblem(`${chosen.name}: ${(error as Error).message}`);
    }
  };
  const lookAgain = async (wanted: { sheet?: string; kind?: string }) => {
    try {
      setPreview(await ask<Preview>('/api/imports/look', { uploadId: preview!.uploadId, ...wanted }));
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const onDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void look(event.dataTransfer.files[0]);
  };

  const fromMarketplace = season.data?.account;
  const connected = fromMarketplace !== undefined && fromMarketplace.source !== 'files';
  const fresh = imports.data?.freshness ?? [];
  const last = fresh.find(({ kind }) => kind === 'terms-daily') ?? fresh[0];
  return (
    <Box sx={{ height: '100%', overflowY: 'auto' }}>
      <Box sx={{ px: 2.25, pt: 1.5, pb: 1.5 }}>
        <Typography variant="h1">Data</Typography>
        <Typography sx={{ mt: 0.75, fontSize: sizes.sentence }} data-testid="data-sentence">
          {last ? (
            <>
              Figures reach from <b>{longDay(last.first_day)}</b> to <b>{longDay(last.last_day)}</b>
              {season.data?.settledTo && (
                <>
                  ; days after <b>{longDay(season.data.settledTo)}</b> are still settling
                </>
              )}
              . Last loaded {instant(last.loaded_at)}.
            </>
          ) : (
            `Nothing is loaded yet. ${connected ? 'Fetch from the marketplace, or bring a file.' : 'Bring a file: search terms or targets by day are the ones to begin with.'}`
          )}
        </Typography>
      </Box>
      <Box
        sx={{
          bgcolor: 'background.paper',
          borderTop: 1,
          borderColor: 'text.primary',
          px: 2.25,
          py: 2,
          display: 'grid',
          gridTemplateColumns: 'minmax(0, 1fr)',
          gap: 2,
        }}
      >
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', flexWrap: 'wrap' }}>
          {connected && (
            <>
              <Button variant="contained" disabled={busy} onClick={() => void begin('/api/fetch')}>
                Fetch from the marketplace
              </Button>
              <Typography variant="body2" color="text.secondary" sx={{ maxWidth: 380 }}>
                Structure, products, and every day that is missing or younger than 14 days.
              </Typography>
            </>
          )}
          {last && (
            <Button component="a" href={at('/api/package')} download variant="outlined">
              Export everything
            </Button>
          )}
          {connected && fromMarketplace?.demo && (
            <>
              <Box sx={{ flex: 1 }} />
              <Typography variant="body2" color="text.secondary">
                Demo: let time pass
              </Typography>
              {[1, 7].map((days) => (
                <Button
                  key={days}
                  variant="outlined"
                  disabled={busy}
                  onClick={() => void begin('/api/advance', { days })}
                >
                  {days === 1 ? '1 day' : `${days} days`}
                </Button>
              ))}
            </>
          )}
        </Box>
        {busy && <JobProgress job={job} title={titles[job.kind] ?? job.kind} cancellable />}
        {problem && (
          <Typography role="alert" color="error" variant="body2">
            {problem}
          </Typography>
        )}
        {ended && !busy && <Ended job={ended} />}
        <Box
          onDragOver={(event) => {
            event.preventDefault();
            setOver(true);
          }}
          onDragLeave={() => setOver(false)}
          onDrop={onDrop}
          sx={{
            border: 1,
            borderStyle: 'dashed',
            borderColor: over ? 'primary.main' : 'divider',
            bgcolor: over ? (theme) => theme.palette.roles.wash : 'transparent',
            borderRadius: 1,
            px: 2,
            py: 1.75,
            display: 'flex',
            alignItems: 'center',
            gap: 2,
          }}
        >
          <Typography variant="body2" sx={{ flex: 1 }}>
            <b>Load a file.</b> Drop a CSV, a workbook, JSON Lines or a data package: search terms, targets or
            placements by day, hours, ranks, products, structure, goals, changes. Its columns are recognised;
            you check them before anything is loaded.
          </Typography>
          <Button variant="outlined" onClick={() => file.current?.click()}>
            Choose a file
          </Button>
          <input
            ref={file}
            type="file"
            accept=".csv,.txt,.tsv,.xlsx,.jsonl,.ndjson,.zip,text/csv"
            aria-label="File to load"
            hidden
            onChange={(event) => {
              void look(event.target.files?.[0]);
              event.target.value = '';
            }}
          />
        </Box>
        {preview?.format === 'package' && (
          <Box data-testid="package" sx={{ border: 1, borderColor: 'divider', borderRadius: 1, p: 2 }}>
            <Typography variant="body2">
              <b>{preview.fileName}</b> is a data package of “{preview.title}” with{' '}
              {preview.resources.map(({ name }) => name).join(', ')}. Days in it replace the same days loaded
              before.
            </Typography>
            <Box sx={{ mt: 1.5, display: 'flex', gap: 1.5 }}>
              <Button
                variant="contained"
                onClick={() => {
                  setPreview(null);
                  void begin('/api/imports/package', { uploadId: preview.uploadId });
                }}
              >
                Load the package
              </Button>
              <Button onClick={() => setPreview(null)}>Leave it</Button>
            </Box>
          </Box>
        )}
        {preview && preview.format !== 'package' && imports.data && (
          <LoadPreview
            key={`${preview.uploadId} ${preview.sheet} ${preview.kind}`}
            preview={preview}
            kinds={imports.data.kinds}
            onLook={(wanted) => void lookAgain(wanted)}
            onCancel={() => setPreview(null)}
            onLoad={async (choices) => {
              try {
                const { jobId } = await send<{ jobId: string }>('POST', '/api/imports', choices);
                setPreview(null);
                setEnded(null);
                setStarted(jobId);
                return null;
              } catch (error) {
                enqueueSnackbar((error as Error).message, { variant: 'error' });
                return (error as Error).message;
              }
            }}
          />
        )}
      </Box>
      <Imports answer={imports.data} />
      <AccountSettings />
    </Box>
  );
}

function Ended({ job }: { job: JobAnswer }) {
  if (job.state === 'cancelled') {
    return (
      <Typography variant="body2">
        Cancelled. What was loaded in full stays; nothing is half-loaded.
      </Typography>
    );
  }
  if (job.state === 'failed') {
    return (
      <Typography role="alert" color="error" variant="body2">
        {job.message}
      </Typography>
    );
  }
  // What it did stands, though what it had to tell could not be kept.
  if (!job.result) return <Typography variant="body2">{job.message}</Typography>;
  if (job.kind === 'load_package') {
    const { parts } = job.result as PackageResult;
    const sum = (of: 'rowsRead' | 'rowsLoaded' | 'rowsRejected') =>
      parts.reduce((total, part) => total + part[of], 0);
    return (
      <Typography variant="body2" data-testid="load-result">
        <b>{counted(sum('rowsLoaded'), 'row')} loaded</b> of {count(sum('rowsRead'))} read in{' '}
        {parts.filter(({ rowsRead }) => rowsRead > 0).length} parts; {count(sum('rowsRejected'))} rejected.
      </Typography>
    );
  }
  if (job.kind !== 'load')
    return <Typography variant="body2">Fetched. One line for each report stands below.</Typography>;
  const result = job.result as LoadResult;
  return (
    <Box data-testid="load-result" sx={{ typography: 'body2' }}>
      <b>{counted(result.rowsLoaded, 'row')} loaded</b> of {count(result.rowsRead)} read;{' '}
      {count(result.rowsRejected)} rejected, {counted(result.rowsTotals, 'total')} left out.{' '}
      {result.firstDay && result.lastDay && `${longDay(result.firstDay)} to ${longDay(result.lastDay)}. `}
      {result.daysReplaced > 0 &&
        `${counted(result.daysReplaced, 'day')} ${result.daysReplaced === 1 ? 'was known and has' : 'were known and have'} been replaced. `}
      {result.rejectedFile && (
        <>
          <Link href={at(`/api/files/${result.rejectedFile}`)} download>
            Download rejected rows
          </Link>
          <Box component="ul" sx={{ m: 0, mt: 0.5, pl: 2.5, maxHeight: 130, overflowY: 'auto' }}>
            {result.rejected.map((row) => (
              <li key={row.row}>
                Row {row.row}
                {row.column && `, column ${row.column}`}
                {row.value && `, “${row.value}”`}: {row.reason}
              </li>
            ))}
          </Box>
        </>
      )}
    </Box>
  );
}

/** What a load put in the place of something else; of a file that changes goals, the way back. */
function Replaced({ row }: { row: ImportsAnswer['imports'][number] }) {
  const { act } = useAct();
  if (row.is_taken_back) return <span className="soft">taken back</span>;
  if (!row.can_take_back) return row.days_replaced > 0 ? counted(row.days_replaced, 'day') : '';
  return (
    <Link
      component="button"
      type="button"
      aria-label={`Take back ${row.file_name}`}
      onClick={() =>
        void act(
          () => send<TakenBack>('POST', `/api/imports/${row.import_id}/back`),
          ({ back, stays }) =>
            `${counted(back, 'goal')} ${back === 1 ? 'is' : 'are'} as before.` +
            (stays > 0
              ? ` ${count(stays)} changed since ${stays === 1 ? 'stays as it is' : 'stay as they are'}.`
              : ''),
        )
      }
      sx={{ font: 'inherit' }}
    >
      Take back
    </Link>
  );
}

function Imports({ answer }: { answer: ImportsAnswer | undefined }) {
  if (!answer || answer.imports.length === 0) return null;
  const head = ['Loaded', 'From', 'Report', 'Days', 'Read', 'Loaded', 'Rejected', 'Totals', 'Replaced'];
  return (
    <Box sx={{ px: 2.25, py: 2 }}>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        What was loaded
      </Typography>
      <Box
        component="table"
        sx={{
          borderCollapse: 'collapse',
          fontSize: sizes.table,
          width: '100%',
          '& td, & th': {
            textAlign: 'right',
            py: 0.6,
            pr: 2,
            borderBottom: 1,
            borderColor: 'divider',
            fontWeight: 400,
            whiteSpace: 'nowrap',
          },
          '& th': { color: 'text.secondary', fontSize: sizes.small },
          '& td:nth-of-type(-n+4), & th:nth-of-type(-n+4)': { textAlign: 'left' },
        }}
      >
        <thead>
          <tr>
            {head.map((name, i) => (
              <th scope="col" key={i}>
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {answer.imports.map((row) => (
            <tr key={row.import_id}>
              <td>{instant(row.finished_at)}</td>
              <td>{row.source === 'file' ? row.file_name : row.source}</td>
              <td>{row.kind}</td>
              <td>
                {row.first_day && row.last_day
                  ? `${longDay(row.first_day)} – ${longDay(row.last_day)}`
                  : 'as it stands'}
              </td>
              <td>{count(row.rows_read)}</td>
              <td>{count(row.rows_loaded)}</td>
              <td>
                {row.rejected_file ? (
                  <Link href={at(`/api/files/${row.rejected_file}`)} download>
                    {count(row.rows_rejected)}
                  </Link>
                ) : (
                  count(row.rows_rejected)
                )}
              </td>
              <td>{count(row.rows_totals)}</td>
              <td>
                <Replaced row={row} />
              </td>
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}
