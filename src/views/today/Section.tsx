import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import { sizes } from '../../ui/theme.ts';

interface SectionProps {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
}

/** A part of Today: its title on a rule, what is known below it. */
export const Section = ({ title, aside, children }: SectionProps) => (
  <Box component="section" aria-label={title} sx={{ fontSize: sizes.table, lineHeight: 1.5, minWidth: 0 }}>
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        minHeight: 30,
        borderBottom: 1,
        borderColor: 'divider',
        mb: 0.5,
      }}
    >
      <Typography component="h2" sx={{ fontWeight: 700, fontSize: sizes.table, mr: 'auto' }}>
        {title}
      </Typography>
      {aside}
    </Box>
    {children}
  </Box>
);
