import { sizes } from '../theme.ts';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import type { Theme } from '@mui/material/styles';

const cap = {
  display: 'inline-block',
  minWidth: 22,
  px: 0.6,
  textAlign: 'center',
  border: 1,
  borderColor: (theme: Theme) => theme.palette.text.secondary,
  borderRadius: 1,
  fontSize: sizes.small,
  fontFamily: 'inherit',
  lineHeight: '18px',
} as const;

export const Key = ({ children }: { children: string }) => (
  <Box component="kbd" sx={cap}>
    {children}
  </Box>
);

export interface KeyHelp {
  keys: string[];
  does: string;
}

/** The keys that work here. */
export function KeysDialog({ open, onClose, help }: { open: boolean; onClose: () => void; help: KeyHelp[] }) {
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="keys-title">
      <DialogTitle id="keys-title" sx={{ typography: 'h2' }}>
        Keys that work here
      </DialogTitle>
      <DialogContent>
        <Box
          component="dl"
          sx={{ display: 'grid', gridTemplateColumns: 'auto 1fr', gap: 1, m: 0, typography: 'body2' }}
        >
          {help.map(({ keys, does }) => (
            <Box key={does} sx={{ display: 'contents' }}>
              <Box component="dt" sx={{ display: 'flex', gap: 0.5 }}>
                {keys.map((key) => (
                  <Key key={key}>{key}</Key>
                ))}
              </Box>
              <Box component="dd" sx={{ m: 0 }}>
                {does}
              </Box>
            </Box>
          ))}
        </Box>
      </DialogContent>
    </Dialog>
  );
}

/** The keys that work on what a panel is about, at its end: "a accept  s skip". */
export const KeyHints = ({ keys }: { keys: readonly (readonly [key: string, does: string])[] }) => (
  <Box sx={{ mt: 1.5, display: 'flex', gap: 1.2, color: 'text.secondary' }}>
    {keys.map(([key, does]) => (
      <span key={key}>
        <Key>{key}</Key> {does}
      </span>
    ))}
  </Box>
);
