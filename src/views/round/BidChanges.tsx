import Box from '@mui/material/Box';
import type { BidChange } from '../../core/effect/bid-history.ts';
import { counted, decimal, money } from '../../core/metrics/format.ts';
import { shortDay } from '../../ui/days.ts';
import { Part } from '../../ui/parts/Panel.tsx';
import { sizes } from '../../ui/theme.ts';

/** The newest ones; how many there were is said. */
const shown = 5;

const times = (count: number, verb: string): string | null =>
  count === 0 ? null : `${verb} ${count === 1 ? 'once' : `${count} times`}`;

/** How often a bid was cut and raised, and what each change came to in whole weeks. */
export function BidChanges({ changes }: { changes: readonly BidChange[] }) {
  const cuts = changes.filter(({ bid, from }) => bid < from).length;
  const said = [times(cuts, 'cut'), times(changes.length - cuts, 'raised')].filter((text) => text !== null);
  const text = said.join(', ');
  return (
    <Part title="Its bid before" explains="bid_changes">
      <div data-testid="bid-changes">
        {text.charAt(0).toUpperCase() + text.slice(1)} since {shortDay(changes[0]!.day)}.
      </div>
      {changes.slice(-shown).map(({ day, from, bid, outside, weeks, expected, after, corrected }) => (
        <Box key={day} sx={{ fontSize: sizes.small, mt: 0.25 }}>
          <b>
            {shortDay(day)} {money(from)} to {money(bid)}
          </b>
          {outside && ' at the marketplace'}
          {weeks === 0
            ? ': no whole settled week yet.'
            : `: a week ${decimal(after.clicks)} clicks, ${money(after.spend)} spent, ${decimal(after.orders)} orders, ` +
              `where ${decimal(expected.clicks)}, ${money(expected.spend)}, ${decimal(expected.orders)} would have been` +
              `${corrected ? ', as its siblings went' : ''} (${counted(weeks, 'week')}).`}
        </Box>
      ))}
    </Part>
  );
}
