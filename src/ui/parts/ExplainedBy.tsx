import Tooltip from '@mui/material/Tooltip';
import type { ReactElement, ReactNode } from 'react';

const explanationStyle = {
  bgcolor: 'background.paper',
  color: 'text.primary',
  border: 1,
  borderColor: 'divider',
  boxShadow: 2,
  p: 1.25,
  fontWeight: 400,
} as const;

interface ExplainedByProps {
  /** What is said of it, or null where there is nothing to say. */
  explanation: ReactNode;
  children: ReactElement;
}

/** Says what a thing is when the mouse rests on it or the Tab key comes to it. */
export const ExplainedBy = ({ explanation, children }: ExplainedByProps) =>
  explanation === null || explanation === undefined ? (
    children
  ) : (
    <Tooltip
      title={explanation}
      describeChild
      enterDelay={500}
      enterNextDelay={150}
      placement="bottom-start"
      slotProps={{ tooltip: { sx: explanationStyle } }}
    >
      {children}
    </Tooltip>
  );
