import { sizes } from '../theme.ts';
import type { Theme } from '@mui/material/styles';

const clip = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

/** Looks of the rows of every list, said once for all: a style on every cell would be reckoned anew with every row. */
export const rowStyles = ({ palette: { roles } }: Theme) =>
  ({
    position: 'relative',
    '& .row': {
      position: 'absolute',
      top: 0,
      left: 0,
      display: 'grid',
      alignItems: 'center',
      borderBottom: `1px solid ${roles.line}`,
      fontSize: sizes.table,
    },
    '& .row.fixed': { contain: 'strict' },
    '& .row.focus': { background: roles.wash, boxShadow: `inset 3px 0 0 ${roles.accent}` },
    '& .row > div': { minWidth: 0 },
    '& .row > .mark': { textAlign: 'center' },
    '& .mark > input': { accentColor: roles.accent, width: 14, height: 14 },
    '& .number': { textAlign: 'right' },
    '& .first': { ...clip, lineHeight: '17px' },
    '& .second': { ...clip, fontSize: sizes.tiny, lineHeight: '14px', color: roles.soft },
    '& .long': {
      fontSize: sizes.small,
      lineHeight: '16px',
      display: '-webkit-box',
      WebkitLineClamp: 2,
      WebkitBoxOrient: 'vertical',
      overflow: 'hidden',
    },
    '& .over': { color: roles.over },
    '& .under': { color: roles.under },
    '& .soft': { color: roles.soft },
  }) as const;
