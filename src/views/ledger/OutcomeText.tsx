import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import type { Outcome } from '../../core/effect/outcome.ts';
import { counted, percent, signedMoney } from '../../core/metrics/format.ts';

/** How the gain against the goal moved by untouched siblings is reckoned, in one sentence. */
export const outcomeTitle = ({ weeks, before, after, trend, shift }: Outcome): string =>
  weeks === 0
    ? 'Whether it worked is told from the first whole week after it whose orders have settled.'
    : `Gain against the goal over ${counted(weeks, 'week')}: ${signedMoney(before)} a week before, with the orders that were expected of its clicks when the change was made, moved by ${percent(trend - 1)} as targets that nobody touched moved${Math.abs(shift - 1) < 0.005 ? '' : ` and by ${percent(shift - 1)} for the clicks that targets of one product take from each other`}; ${signedMoney(after)} after.`;

/** Whether a change worked: verdict, change of the gain a week, and its 80 % interval. */
export function OutcomeText({ outcome }: { outcome: Outcome }) {
  const { verdict, change, low, high, weeks } = outcome;
  return (
    <Box title={outcomeTitle(outcome)} data-testid="outcome">
      <Box component="b" sx={{ color: (theme) => colourOf(theme.palette.roles, verdict) }}>
        {verdict}
      </Box>
      {weeks > 0 && (
        <>
          {' '}
          {signedMoney(change)}
          <br />
          <Box component="span" sx={{ color: 'text.secondary', fontSize: sizes.small }}>
            {signedMoney(low)} to {signedMoney(high)}
          </Box>
        </>
      )}
    </Box>
  );
}

const colourOf = (
  roles: { under: string; over: string; soft: string },
  verdict: Outcome['verdict'],
): string => (verdict === 'better' ? roles.under : verdict === 'worse' ? roles.over : roles.soft);
