import { sizes } from '../theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import CircularProgress from '@mui/material/CircularProgress';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import { AddressNote, type AddressProblem } from '../shell/AddressNote.tsx';

interface ListPageProps {
  problems?: readonly AddressProblem[];
  head: ReactNode;
  /** The rows, or what stands where they would. */
  children: ReactNode;
  /** What is known of the row in focus, at the right. */
  panel?: ReactNode;
}

/** The frame of every list: what is wrong with the address, the head, the rows, and at the right what is known of one. */
export const ListPage = ({ problems = [], head, children, panel }: ListPageProps) => (
  <Box sx={{ height: '100%', flex: 1, minWidth: 0, display: 'flex' }}>
    <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
      <AddressNote problems={problems} />
      {head}
      {children}
    </Box>
    {panel}
  </Box>
);

interface ListHeadProps {
  /** Left out where the place's name stands beside the list. */
  title?: ReactNode;
  /** The parts or kinds beside the title. */
  tabs?: ReactNode;
  actions?: ReactNode;
  /** What all of it comes to, as a sentence. */
  sentence?: ReactNode;
  /** Where tests find the sentence. */
  name: string;
  /** Further lines between the sentence and the filters. */
  notes?: ReactNode;
  filters?: ReactNode;
}

/** What stands over a list: its place and parts, a sentence with its figures, and its filters. */
export function ListHead({ title, tabs, actions, sentence, name, notes, filters }: ListHeadProps) {
  const done = actions && (
    <Box sx={{ display: 'flex', gap: 1, alignSelf: 'center', ml: 'auto', flexShrink: 0 }}>{actions}</Box>
  );
  const said = sentence && (
    <Typography component="div" data-testid={`${name}-sentence`} sx={{ fontSize: sizes.sentence }}>
      {sentence}
    </Typography>
  );
  return (
    <Box sx={{ px: 2.25, pt: 1.5, pb: 1, display: 'grid', gap: 0.75 }}>
      {title ? (
        <>
          <Box sx={{ display: 'flex', alignItems: 'baseline', columnGap: 2.5, flexWrap: 'wrap' }}>
            <Typography variant="h1">{title}</Typography>
            {tabs}
            {done}
          </Box>
          {said}
        </>
      ) : (
        <Box sx={{ display: 'flex', gap: 2, alignItems: 'center' }}>
          {said}
          {done}
        </Box>
      )}
      {notes}
      {filters && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 30, flexWrap: 'wrap' }}>
          {filters}
        </Box>
      )}
    </Box>
  );
}

/** How many match; at the end of the line of filters. */
export const Matching = ({ children }: { children: ReactNode }) => (
  <Typography variant="body2" color="text.secondary" noWrap sx={{ flexShrink: 0, ml: 'auto' }}>
    {children}
  </Typography>
);

/** What is being done while there is nothing to show yet. */
export const Waiting = ({ children }: { children: ReactNode }) => (
  <Box sx={{ p: 4, display: 'flex', gap: 2, alignItems: 'center' }}>
    <CircularProgress size={20} aria-label="Counting" />
    <Typography>{children}</Typography>
  </Box>
);

/** Said where rows would be while there are none. */
export const Empty = ({ children }: { children: ReactNode }) => (
  <Box sx={{ p: 4, borderTop: 1, borderColor: 'divider', flex: 1 }}>{children}</Box>
);

interface FailedProps {
  error: Error;
  onRetry: () => void;
}

/** What could not be read, and a way to try again. */
export const Failed = ({ error, onRetry }: FailedProps) => (
  <Box role="alert" sx={{ p: 4, maxWidth: 560 }}>
    <Typography color="error" sx={{ mb: 1 }}>
      {error.message}
    </Typography>
    <Button variant="outlined" onClick={onRetry}>
      Try again
    </Button>
  </Box>
);
