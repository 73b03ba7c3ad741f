import { sizes } from '../theme.ts';
import { styled, type Theme } from '@mui/material/styles';

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

const fieldStyle = ({ theme: { palette } }: { theme: Theme }) => ({
  font: 'inherit',
  fontSize: sizes.table,
  height: 28,
  boxSizing: 'border-box' as const,
  padding: '0 6px',
  color: 'inherit',
  background: palette.background.paper,
  border: `1px solid ${palette.roles.graphite}`,
  borderRadius: 4,
  '&[inputmode=decimal], &[type=number]': { textAlign: 'right' as const },
  '&[aria-invalid=true]': { borderColor: palette.roles.over },
});

export const Field = styled('input')(fieldStyle);

/** The same for text of several lines. */
export const Area = styled('textarea')((props) => ({
  ...fieldStyle(props),
  width: '100%',
  height: 'auto',
  padding: 6,
  resize: 'vertical',
}));
