import {
  DataIcon,
  ExploreIcon,
  GoalsIcon,
  KitsIcon,
  LanesIcon,
  LedgerIcon,
  RoutinesIcon,
  RoundIcon,
  TodayIcon,
  SpendIcon,
} from '../icons.tsx';
import createCache from '@emotion/cache';
import { CacheProvider } from '@emotion/react';
import Box from '@mui/material/Box';
import CssBaseline from '@mui/material/CssBaseline';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import useMediaQuery from '@mui/material/useMediaQuery';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider, useQueryClient } from '@tanstack/react-query';
import { SnackbarProvider, useSnackbar } from 'notistack';
import { useMemo, useState, type ReactNode } from 'react';
import { ErrorBoundary } from 'react-error-boundary';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../address.ts';
import { makeTheme, sizes } from '../theme.ts';
import { AccountSwitch } from './AccountSwitch.tsx';
import { AddressNote } from './AddressNote.tsx';
import { useSeason, useWindow, useWindowProblem } from './data.ts';
import { Fallen } from './Fallen.tsx';
import { KeysDialog, type KeyHelp } from './Keys.tsx';
import { choosePreset, presets, SeasonStrip } from './SeasonStrip.tsx';
import { SheetBar } from './SheetBar.tsx';
import { undoLast } from '../undo.ts';

/** Only places that work are shown. */
const places = [
  { path: '/today', name: 'Today', key: 't', Icon: TodayIcon },
  { path: '/round', name: 'Round', key: 'r', Icon: RoundIcon },
  { path: '/explore', name: 'Explore', key: 'e', Icon: ExploreIcon },
  { path: '/lanes', name: 'Lanes', key: 'n', Icon: LanesIcon },
  { path: '/spend', name: 'Spend', key: 's', Icon: SpendIcon },
  { path: '/kits', name: 'Kits', key: 'k', Icon: KitsIcon },
  { path: '/routines', name: 'Routines', key: 'u', Icon: RoutinesIcon },
  { path: '/ledger', name: 'Ledger', key: 'l', Icon: LedgerIcon },
  { path: '/goals', name: 'Goals', key: 'g', Icon: GoalsIcon },
  { path: '/data', name: 'Data', key: 'd', Icon: DataIcon },
];

const everywhere: KeyHelp[] = [
  { keys: ['1', '2', '3', '4'], does: 'window of 7, 14, 30, 60 days' },
  { keys: ['ctrl', 'z'], does: 'undo' },
  ...places.map(({ key, name }) => ({ keys: ['g', key], does: `go to ${name}` })),
  { keys: ['?'], does: 'show these keys' },
];

const client = new QueryClient({
  defaultOptions: { queries: { staleTime: 15_000, retry: 1, refetchOnWindowFocus: false } },
});

/** A place keeps the window when another is opened. */
const withWindow = (path: string): string => {
  const from = new URLSearchParams(window.location.search);
  const kept = new URLSearchParams();
  for (const name of ['from', 'to']) if (from.get(name)) kept.set(name, from.get(name)!);
  return kept.size > 0 ? `${path}?${kept.toString()}` : path;
};

interface FrameProps {
  help: KeyHelp[];
  children: ReactNode;
}

function Frame({ help, children }: FrameProps) {
  const season = useSeason();
  const chosen = useWindow();
  const wrongWindow = useWindowProblem();
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const [keysOpen, setKeysOpen] = useState(false);
  useHotkeys('1,2,3,4', (event) => choosePreset(presets[Number(event.key) - 1] ?? 30, chosen), [chosen]);
  for (const { key, path } of places) {
    // The list never changes: the order of hooks stays.
    // eslint-disable-next-line react-hooks/rules-of-hooks
    useHotkeys(`g>${key}`, () => window.location.assign(withWindow(at(path))));
  }
  useHotkeys('?', () => setKeysOpen(true), { useKey: true, ignoreModifiers: true });
  useHotkeys('ctrl+z, meta+z', (event) => {
    event.preventDefault();
    undoLast().then(
      (label) => {
        enqueueSnackbar(label ? `Undone: ${label}` : 'Nothing to undo.');
        void queries.invalidateQueries();
      },
      (error: Error) => enqueueSnackbar(error.message, { variant: 'error' }),
    );
  });
  const account = season.data?.account;
  const here = window.location.pathname;
  return (
    <Box
      sx={{
        height: '100vh',
        display: 'grid',
        gridTemplate: '"rail strip" 74px "rail main" minmax(0, 1fr) "rail bar" 46px / 72px minmax(0, 1fr)',
      }}
    >
      <Box
        component="nav"
        aria-label="Places"
        sx={{ gridArea: 'rail', borderRight: 1, borderColor: 'divider', pt: 2.5, textAlign: 'center' }}
      >
        <Typography sx={{ fontWeight: 800, fontSize: sizes.sentence, color: 'primary.main', mb: 2.5 }}>
          mowing
        </Typography>
        {places.map(({ path, name, Icon }) => {
          const current = here.startsWith(at(path));
          return (
            <Link
              key={path}
              href={withWindow(at(path))}
              underline="none"
              color="text.primary"
              aria-current={current ? 'page' : undefined}
              sx={{
                display: 'block',
                py: 1,
                borderLeft: 3,
                borderRight: 3,
                borderColor: 'transparent',
                ...(current
                  ? { borderLeftColor: 'primary.main', fontWeight: 700 }
                  : { color: 'text.secondary' }),
                typography: 'body2',
              }}
            >
              <Icon sx={{ fontSize: sizes.title, display: 'block', mx: 'auto', mb: 0.3 }} />
              <Box component="span" sx={{ fontWeight: current ? 700 : 400 }}>
                {name}
              </Box>
            </Link>
          );
        })}
      </Box>
      <Box
        component="header"
        sx={{ gridArea: 'strip', display: 'flex', borderBottom: 1, borderColor: 'divider', pl: 2.25, pr: 2 }}
      >
        <AccountSwitch account={account} />
        <SeasonStrip />
      </Box>
      <Box
        component="main"
        sx={{ gridArea: 'main', minHeight: 0, minWidth: 0, display: 'flex', flexDirection: 'column' }}
      >
        <AddressNote problems={wrongWindow} />
        <Box sx={{ flex: 1, minHeight: 0 }}>
          <ErrorBoundary FallbackComponent={Fallen}>{children}</ErrorBoundary>
        </Box>
      </Box>
      <SheetBar />
      <KeysDialog open={keysOpen} onClose={() => setKeysOpen(false)} help={[...help, ...everywhere]} />
    </Box>
  );
}

/** Theme, queries and messages: what every page stands in. */
export function Surroundings({ children }: { children: ReactNode }) {
  const dark = useMediaQuery('(prefers-color-scheme: dark)', { noSsr: true });
  const still = useMediaQuery('(prefers-reduced-motion: reduce)', { noSsr: true });
  const theme = useMemo(() => makeTheme(dark ? 'dark' : 'light', still), [dark, still]);
  const cache = useMemo(() => {
    const nonce = (window as { __nonce__?: string }).__nonce__;
    return createCache({ key: 'mowing', ...(nonce ? { nonce } : {}) });
  }, []);
  return (
    <CacheProvider value={cache}>
      <ThemeProvider theme={theme}>
        <CssBaseline enableColorScheme />
        <QueryClientProvider client={client}>
          <SnackbarProvider
            maxSnack={2}
            classes={{ containerRoot: 'messages' }}
            autoHideDuration={3500}
            anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
          >
            {children}
          </SnackbarProvider>
        </QueryClientProvider>
      </ThemeProvider>
    </CacheProvider>
  );
}

/** The frame of every view of an account: rail, season strip, sheet bar, keys, messages. */
export const Shell = ({ help = [], children }: { help?: KeyHelp[]; children: ReactNode }) => (
  <Surroundings>
    <Frame help={help}>{children}</Frame>
  </Surroundings>
);
