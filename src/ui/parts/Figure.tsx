import Box from '@mui/material/Box';
import type { ReactNode } from 'react';
import { Explanation } from './Explanation.tsx';
import { ExplainedBy } from './ExplainedBy.tsx';

interface FigureProps {
  /** What it is, as `explains.ts` knows it. */
  name: string;
  label: string;
  children: ReactNode;
}

/** A figure in a sentence or over a chart: it says what it is when the mouse rests on it or Tab comes to it. */
export const Figure = ({ name, label, children }: FigureProps) => (
  <ExplainedBy explanation={<Explanation label={label} name={name} />}>
    <Box
      component="span"
      tabIndex={0}
      data-figure={name}
      sx={{
        borderBottom: 1,
        borderBottomStyle: 'dotted',
        borderColor: 'text.secondary',
        cursor: 'help',
        outlineOffset: 2,
      }}
    >
      {children}
    </Box>
  </ExplainedBy>
);
