import Box from '@mui/material/Box';
import CircularProgress from '@mui/material/CircularProgress';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import type { Window } from '../../core/metrics/days.ts';

/** What every part of Lanes is given. */
export interface PartProps {
  window: Window;
  currency: string;
  /** The place's name and its parts, which each part shows above its own. */
  head: ReactNode;
}

export const Waiting = ({ children }: { children: ReactNode }) => (
  <Box sx={{ p: 4, display: 'flex', gap: 2, alignItems: 'center' }}>
    <CircularProgress size={20} aria-label="Counting" />
    <Typography>{children}</Typography>
  </Box>
);
