import { sizes } from '../theme.ts';
import { styled } from '@mui/material/styles';

/** Small plain fields for places where a large one would be in the way. */
export const Choice = styled('select')(({ theme: { palette } }) => ({
  font: 'inherit',
  fontSize: sizes.table,
  height: 28,
  maxWidth: 260,
  padding: '0 4px',
  color: 'inherit',
  background: palette.background.paper,
  border: `1px solid ${palette.roles.graphite}`,
  borderRadius: 4,
}));

export const Field = styled('input')(({ theme: { palette } }) => ({
  font: 'inherit',
  fontSize: sizes.table,
  height: 28,
  boxSizing: 'border-box',
  padding: '0 6px',
  color: 'inherit',
  background: palette.background.paper,
  border: `1px solid ${palette.roles.graphite}`,
  borderRadius: 4,
  '&[inputmode=decimal], &[type=number]': { textAlign: 'right' },
  '&[aria-invalid=true]': { borderColor: palette.roles.over },
}));
