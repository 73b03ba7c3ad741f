import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';

const currencies = Intl.supportedValuesOf('currency');
const timeZones = ['UTC', ...Intl.supportedValuesOf('timeZone')];

/** What the fields with `list="currencies"` and `list="zones"` offer. */
export const KnownValues = () => (
  <>
    <datalist id="currencies">
      {currencies.map((one) => (
        <option key={one} value={one} />
      ))}
    </datalist>
    <datalist id="zones">
      {timeZones.map((one) => (
        <option key={one} value={one} />
      ))}
    </datalist>
  </>
);

interface LineProps {
  label: string;
  /** The id of its control. */
  name: string;
  hint?: string;
  error?: string | undefined;
  children: ReactNode;
}

/** One question of a form: what is asked at the left, the answer and what is wrong with it at the right. */
export const Line = ({ label, name, hint, error, children }: LineProps) => (
  <Box
    sx={{
      display: 'grid',
      gridTemplateColumns: '150px minmax(0, 1fr)',
      alignItems: 'baseline',
      py: 1.25,
      borderBottom: 1,
      borderColor: 'divider',
    }}
  >
    <Typography component="label" htmlFor={name} variant="body2" sx={{ fontWeight: 700 }}>
      {label}
    </Typography>
    <Box>
      <Box>{children}</Box>
      {error ? (
        <Typography role="alert" variant="caption" color="error">
          {error}
        </Typography>
      ) : (
        hint && (
          <Typography
            variant="caption"
            color="text.secondary"
            component="p"
            sx={{ lineHeight: 1.4, mt: 0.4 }}
          >
            {hint}
          </Typography>
        )
      )}
    </Box>
  </Box>
);
