import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Popover from '@mui/material/Popover';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { addDays, windowBefore, windowDays, type Window } from '../../core/metrics/days.ts';
import { shortDay } from '../../ui/days.ts';
import { Field } from '../../ui/parts/fields.tsx';
import { setUrl } from '../../ui/hooks/useUrlState.ts';

interface ComparedProps {
  window: Window;
  /** A comparison of its own; null for the days just before. */
  own: Window | null;
}

const put = (comparison: Window | null) =>
  setUrl({ cfrom: comparison?.from ?? null, cto: comparison?.to ?? null }, true);

const earlier = ({ from, to }: Window, days: number): Window => ({
  from: addDays(from, -days),
  to: addDays(to, -days),
});

/** What the window is compared with: the days before, the same days some time earlier, or any days. */
export function Compared({ window, own }: ComparedProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const shown = own ?? windowBefore(window);
  const choices: [string, Window | null][] = [
    [`The ${windowDays(window)} days just before`, null],
    ['The same weekdays 4 weeks earlier', earlier(window, 28)],
    ['The same weekdays 52 weeks earlier', earlier(window, 364)],
  ];
  /** A day beyond the other end takes that end along. */
  const change = ({ from = shown.from, to = shown.to }: Partial<Window>, moved: keyof Window) => {
    if (from === '' || to === '') return;
    put(from <= to ? { from, to } : moved === 'from' ? { from, to: from } : { from: to, to });
  };
  return (
    <>
      <Button
        size="small"
        aria-label={`Compared with ${shortDay(shown.from)} to ${shortDay(shown.to)}`}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        {`against ${shortDay(shown.from)}–${shortDay(shown.to)}`}
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { sx: { p: 1.5, display: 'grid', gap: 0.75 } } }}
        onKeyDown={(event) => event.stopPropagation()}
      >
        <Typography variant="body2" color="text.secondary">
          The window is compared with
        </Typography>
        {choices.map(([label, comparison]) => (
          <Button
            key={label}
            size="small"
            aria-pressed={JSON.stringify(comparison) === JSON.stringify(own)}
            sx={{ justifyContent: 'flex-start' }}
            onClick={() => (put(comparison), setAnchor(null))}
          >
            {label}
          </Button>
        ))}
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', fontSize: sizes.table }}>
          <Field
            type="date"
            aria-label="Comparison from"
            value={shown.from}
            onChange={(event) => change({ from: event.target.value }, 'from')}
          />
          to
          <Field
            type="date"
            aria-label="Comparison to"
            value={shown.to}
            onChange={(event) => change({ to: event.target.value }, 'to')}
          />
        </Box>
      </Popover>
    </>
  );
}
