import { sizes } from '../theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { setUrl } from '../hooks/useUrlState.ts';

/** A part of the address that cannot be read: its name, and what is wrong with it. */
export interface AddressProblem {
  name: string;
  problem: string;
}

/** What is wrong with the address, in words, and that it was left out; one press takes it off the address. */
export function AddressNote({ problems }: { problems: readonly AddressProblem[] }) {
  if (problems.length === 0) return null;
  const clear = Object.fromEntries(problems.map(({ name }) => [name, null]));
  return (
    <Box
      role="alert"
      data-testid="address-note"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.5,
        px: 2.25,
        py: 0.5,
        fontSize: sizes.table,
        color: 'error.main',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <Box sx={{ flex: 1 }}>
        The address cannot be read as it stands, and this of it was left out:{' '}
        {problems.map(({ name, problem }) => `${name}: ${problem}`).join(' ')}
      </Box>
      <Button size="small" onClick={() => setUrl(clear)}>
        Take it off
      </Button>
    </Box>
  );
}
