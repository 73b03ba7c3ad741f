import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import GlobalStyles from '@mui/material/GlobalStyles';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { ReportAnswer, ReportSummary } from '../../answers/today.ts';
import { reportStyle } from '../../core/report/html.ts';
import { at } from '../../ui/address.ts';
import { get } from '../../ui/api.ts';
import { longDay, shortDay } from '../../ui/days.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Empty, Failed, ListHead, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { Area } from '../../ui/parts/fields.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { useWindow } from '../../ui/shell/data.ts';
import { Shell } from '../../ui/shell/Shell.tsx';

/** Reports for whoever pays for the ads: made of a window, written on, printed. */
export const ReportView = () => (
  <Shell help={[]}>
    <Reports />
  </Shell>
);

function Reports() {
  const window = useWindow();
  const { makeReport } = useAct();
  const [chosen, setChosen] = useUrlState('report', true);
  const reports = useQuery({ queryKey: ['reports'], queryFn: () => get<ReportSummary[]>('/api/reports') });
  const list = reports.data;
  const reportId = chosen === null ? (list?.[0]?.reportId ?? null) : Number(chosen);
  const make = () => void makeReport(window!).then((made) => made !== null && setChosen(String(made)));
  return (
    <ListPage
      head={
        <ListHead
          title="Report"
          name="report"
          actions={
            <Button variant="contained" disabled={window === null} onClick={make}>
              Report on {window ? `${shortDay(window.from)} – ${shortDay(window.to)}` : 'these days'}
            </Button>
          }
          sentence={
            <>
              A report keeps its figures as they stood on the day it was made. The words are yours.{' '}
              <Link href={at('/today')}>Back to Today</Link>
            </>
          }
        />
      }
      panel={
        <Panel label="Reports" width={300}>
          <Typography variant="h2">Made so far</Typography>
          {(list ?? []).map((one) => (
            <Box key={one.reportId} sx={{ py: 0.5 }}>
              <Link
                component="button"
                aria-current={one.reportId === reportId}
                sx={{ fontWeight: one.reportId === reportId ? 700 : 400, textAlign: 'left' }}
                onClick={() => setChosen(String(one.reportId))}
              >
                {shortDay(one.from)} – {longDay(one.to)}
              </Link>
              <div className="soft">made on {longDay(one.madeOn)}</div>
            </Box>
          ))}
          {list?.length === 0 && <Typography variant="body2">None yet.</Typography>}
        </Panel>
      }
    >
      {reports.isError ? (
        <Failed error={reports.error} onRetry={() => void reports.refetch()} />
      ) : !list ? (
        <Waiting>Reading the reports.</Waiting>
      ) : reportId === null ? (
        <Empty>Choose days on the strip above, and make a report on them.</Empty>
      ) : (
        <One key={reportId} reportId={reportId} onGone={() => setChosen(null)} />
      )}
    </ListPage>
  );
}

function One({ reportId, onGone }: { reportId: number; onGone: () => void }) {
  const { writeReport, removeReport } = useAct();
  const [words, setWords] = useState<string | null>(null);
  const report = useQuery({
    queryKey: ['report', reportId],
    queryFn: () => get<ReportAnswer>(`/api/reports/${reportId}`),
  });
  const answer = report.data;
  if (!answer)
    return report.isError ? (
      <Failed error={report.error} onRetry={() => void report.refetch()} />
    ) : (
      <Waiting>Reading the report.</Waiting>
    );
  const text = words ?? answer.words;
  const keep = () => {
    if (words !== null && words !== answer.words) void writeReport(reportId, answer.words, words);
  };
  const file = (as: string) => at(`/api/reports/${reportId}/file?as=${as}`);
  return (
    <Box
      sx={{ flex: 1, minHeight: 0, overflow: 'auto', borderTop: 1, borderColor: 'text.primary' }}
      tabIndex={0}
      role="region"
      aria-label="The report"
    >
      <GlobalStyles styles={reportStyle} />
      <Box sx={{ px: 2.25, py: 1.5, display: 'grid', gap: 0.75 }}>
        <Part title="Words">
          <Area
            aria-label="Words of the report"
            rows={4}
            value={text}
            maxLength={20_000}
            onChange={({ target }) => setWords(target.value)}
            onBlur={keep}
            sx={{ width: '100%' }}
          />
        </Part>
        <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
          <Button size="small" variant="outlined" href={file('html')} target="_blank" rel="noopener">
            Open to print
          </Button>
          {answer.canPrint && (
            <Button size="small" variant="outlined" href={file('pdf')} download>
              Save as PDF
            </Button>
          )}
          <Button
            size="small"
            onClick={() => void removeReport(reportId, answer.words).then((done) => done && onGone())}
          >
            Remove
          </Button>
        </Box>
      </Box>
      {/* Made by Mowing itself, every text in it escaped. */}
      <div data-testid="report-page" dangerouslySetInnerHTML={{ __html: answer.body }} />
    </Box>
  );
}
