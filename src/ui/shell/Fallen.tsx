import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import type { FallbackProps } from 'react-error-boundary';

/** What stands in the place of a view that fell: what happened, that nothing is lost, and the way on. */
export function Fallen({ error, resetErrorBoundary }: FallbackProps) {
  return (
    <Box role="alert" sx={{ p: 4, maxWidth: 620 }}>
      <Typography variant="h1">This view could not be shown</Typography>
      <Typography sx={{ my: 2 }}>
        Something in it failed: “{error instanceof Error ? error.message : String(error)}”. Nothing on the
        sheet or in the account was changed by it. Show it again; if it fails again, its filters may be the
        reason: open it without them.
      </Typography>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="contained" onClick={resetErrorBoundary}>
          Show it again
        </Button>
        <Button href={window.location.pathname}>Open it without filters</Button>
      </Box>
    </Box>
  );
}
