import type { SheetSummary } from '../../answers/changes.ts';
import { Failed } from '../../ui/list/ListPage.tsx';
import { AddressNote } from '../../ui/shell/AddressNote.tsx';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { get } from '../../ui/api.ts';
import { shortDay } from '../../ui/days.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Shell } from '../../ui/shell/Shell.tsx';
import { ForecastsView } from './ForecastsView.tsx';
import { OpenSheetView } from './OpenSheetView.tsx';
import { OutsideView } from './OutsideView.tsx';
import { TrialsView } from '../trials/TrialsView.tsx';
import { SentSheetView } from './SentSheetView.tsx';

const keyHelp = [
  { keys: ['j', 'k'], does: 'next, previous line' },
  { keys: ['e'], does: 'edit the new bid of the line in focus' },
  { keys: ['delete'], does: 'take the line in focus, or its group, off the open sheet' },
  { keys: ['/'], does: 'find a line' },
];

export function LedgerView() {
  return (
    <Shell help={keyHelp}>
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
  const list = (sheets.data?.sheets ?? []).filter(({ state }) => state === 'sending' || state === 'sent');
  const forecasts = chosen === 'forecasts';
  const outside = chosen === 'outside';
  const trials = chosen === 'trials';
  const isKnown =
    forecasts ||
    outside ||
    trials ||
    chosen === null ||
    list.some((sheet) => String(sheet.sheet_id) === chosen);
  const problems =
    sheets.data && !isKnown
      ? [{ name: 'sheet', problem: `There is no sheet “${chosen.slice(0, 40)}” that was sent.` }]
      : [];
  const open =
    !forecasts &&
    !outside &&
    !trials &&
    (chosen === null || !list.some((sheet) => String(sheet.sheet_id) === chosen));
  const entry = (id: string | null, title: string, text: string, current: boolean) => (
    <ButtonBase
      key={id ?? 'open'}
      aria-current={current ? 'true' : undefined}
      onClick={() => setUrl({ sheet: id, show: null, find: null, order: null }, true)}
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
        {entry('trials', 'Trials', 'tried, then kept or taken back', trials)}
        {entry('outside', 'Changed outside', 'at the marketplace, by no sheet', outside)}
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
      <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
        <AddressNote problems={problems} />
        {sheets.isError && !sheets.data ? (
          <Failed error={sheets.error} onRetry={() => void sheets.refetch()} />
        ) : forecasts ? (
          <ForecastsView />
        ) : trials ? (
          <TrialsView />
        ) : outside ? (
          <OutsideView />
        ) : open ? (
          <OpenSheetView />
        ) : (
          <SentSheetView key={chosen} sheetId={Number(chosen)} />
        )}
      </Box>
    </Box>
  );
}
