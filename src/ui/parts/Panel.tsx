import { Figure } from './Figure.tsx';
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import { acos, type Sums } from '../../core/metrics/figures.ts';
import { count, money, percent } from '../../core/metrics/format.ts';

/** The panel at the right that tells why: as wide as its charts, scrolled by itself. */
export const Panel = ({
  label,
  width = 328,
  children,
}: {
  label: string;
  width?: number | string;
  children: ReactNode;
}) => (
  <Box
    component="aside"
    aria-label={label}
    data-testid="why"
    tabIndex={0}
    sx={{
      width,
      flexShrink: 0,
      borderLeft: 1,
      borderColor: 'divider',
      bgcolor: (theme) => theme.palette.roles.panel,
      overflowY: 'auto',
      px: 2.5,
      py: 1.75,
      typography: 'body2',
    }}
  >
    {children}
  </Box>
);

interface PartProps {
  title: string;
  /** Name of the figure that it shows, which then explains itself. */
  explains?: string;
  children: ReactNode;
}

/** A part of the panel under its title. */
export const Part = ({ title, explains, children }: PartProps) => (
  <Box component="section" sx={{ mt: 1.5 }}>
    <Typography component="h3" variant="caption" color="text.secondary" sx={{ fontWeight: 700 }}>
      {explains ? (
        <Figure name={explains} label={title}>
          {title}
        </Figure>
      ) : (
        title
      )}
    </Typography>
    {children}
  </Box>
);

const lines: [string, (sums: Sums) => string][] = [
  ['Clicks', (sums) => count(sums.clicks)],
  ['Orders', (sums) => count(sums.orders)],
  ['Spend', (sums) => money(sums.spend)],
  ['ACOS', (sums) => percent(acos(sums))],
];

/** The same figures over windows side by side. */
export const WindowsTable = ({ windows }: { windows: (Sums & { days: number })[] }) => (
  <Box
    component="table"
    sx={{
      width: '100%',
      borderCollapse: 'collapse',
      '& td, & th': { textAlign: 'right', fontWeight: 400, p: 0.2 },
      '& th:first-of-type, & td:first-of-type': { textAlign: 'left', color: 'text.secondary' },
    }}
  >
    <thead>
      <tr>
        <th scope="col">days</th>
        {windows.map(({ days }) => (
          <th scope="col" key={days}>
            {days}
          </th>
        ))}
      </tr>
    </thead>
    <tbody>
      {lines.map(([name, text]) => (
        <tr key={name}>
          <td>{name}</td>
          {windows.map((sums) => (
            <td key={sums.days}>{text(sums)}</td>
          ))}
        </tr>
      ))}
    </tbody>
  </Box>
);
