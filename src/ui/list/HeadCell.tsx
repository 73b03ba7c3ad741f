import { sizes } from '../theme.ts';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { ExplainedBy } from '../parts/ExplainedBy.tsx';
import type { ReactNode } from 'react';

interface HeadCellProps {
  label: string;
  isNumber?: boolean;
  /** Whether the list is ordered by it now, and how. */
  order?: 'ascending' | 'descending' | null;
  onSort?: () => void;
  explanation?: ReactNode;
  className?: string;
  style?: React.CSSProperties;
  children?: ReactNode;
}

/** The head of a column: it says what it is, and orders the list where it can. */
export function HeadCell(props: HeadCellProps) {
  const { label, isNumber = false, order = null, onSort, explanation = null } = props;
  const text = {
    font: 'inherit',
    fontWeight: order ? 700 : 400,
    maxWidth: '100%',
    display: 'inline-block',
    verticalAlign: 'middle',
  };
  const clip = { overflow: 'hidden', textOverflow: 'ellipsis' } as const;
  return (
    <Box
      role="columnheader"
      aria-sort={order ?? undefined}
      className={props.className}
      style={props.style}
      sx={{ textAlign: isNumber ? 'right' : 'left', whiteSpace: 'nowrap', minWidth: 0 }}
    >
      <ExplainedBy explanation={explanation}>
        {onSort ? (
          <ButtonBase onClick={onSort} sx={{ ...text, ...clip }}>
            {label}
            {order && (order === 'descending' ? ' ↓' : ' ↑')}
          </ButtonBase>
        ) : (
          <Box component="span" tabIndex={explanation === null ? undefined : 0} sx={{ ...text, ...clip }}>
            {label}
          </Box>
        )}
      </ExplainedBy>
      {props.children}
    </Box>
  );
}

/** Heads of a list in a row that stays while rows pass under it. */
export const headRowStyle = {
  display: 'grid',
  alignItems: 'center',
  height: 30,
  position: 'sticky',
  top: 0,
  zIndex: 3,
  bgcolor: 'background.paper',
  borderBottom: 1,
  borderColor: 'divider',
  color: 'text.secondary',
  fontSize: sizes.small,
} as const;
