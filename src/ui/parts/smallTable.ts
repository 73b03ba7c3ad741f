import { sizes } from '../theme.ts';

/** A table of few figures within a panel: names at the left, numbers at the right. */
export const smallTable = {
  width: '100%',
  borderCollapse: 'collapse',
  fontSize: sizes.small,
  '& td, & th': { textAlign: 'right', fontWeight: 400, p: 0.2, whiteSpace: 'nowrap' },
  '& th:first-of-type': { textAlign: 'left', color: 'text.secondary' },
  '& thead th': { color: 'text.secondary' },
} as const;
