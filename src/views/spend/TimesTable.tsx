import Box from '@mui/material/Box';
import type { ScopeAnswer } from '../../answers/hours.ts';
import { weekdayNames } from '../../core/account/schedule.ts';
import { timeRange } from '../../core/hours/explain.ts';
import { count, counted, money, percent, significant } from '../../core/metrics/format.ts';
import { Figure } from '../../ui/parts/Figure.tsx';
import { smallTable } from '../../ui/parts/smallTable.ts';

const verdictWords = { under: 'under goal', over: 'over goal', undecided: 'undecided' } as const;

/** Times side by side: weekdays, or hours of the day over all of them. */
export type TimesOf = 'weekdays' | 'hours';

/** What times sell: by ads, what that says beside the mean, and of weekdays what they bring in all. */
export function TimesTable({ scope, of }: { scope: ScopeAnswer; of: TimesOf }) {
  const { picture, weeks } = scope;
  // Of hours nothing is told but what ads brought.
  const totals = of === 'weekdays' ? scope.totals : [];
  const hasProfit = totals.some(({ profit }) => profit !== null);
  return (
    <Box component="table" sx={{ ...smallTable, '& td, & th': { ...smallTable['& td, & th'], px: 0.5 } }}>
      <thead>
        <tr>
          <th scope="col">{counted(weeks, 'week')}</th>
          <th scope="col">clicks</th>
          <th scope="col">spend</th>
          <th scope="col">orders</th>
          <th scope="col">CVR</th>
          <th scope="col">an order</th>
          <th scope="col">
            <Figure name="time_factor" label="A click sells, beside the mean">
              beside the mean
            </Figure>
          </th>
          <th scope="col">ACOS</th>
          {totals.length > 0 && <th scope="col">in all, a day</th>}
          {hasProfit && <th scope="col">leaves</th>}
        </tr>
      </thead>
      <tbody>
        {picture[of].map((one, at) => {
          const [low, high] = timeRange(one);
          const total = totals[at];
          return (
            <tr key={at} data-verdict={one.verdict}>
              <th scope="row">{of === 'weekdays' ? weekdayNames[at] : `${at}–${at + 1} h`}</th>
              <td>{count(one.clicks)}</td>
              <td>{money(one.spend)}</td>
              <td>{count(Math.round(one.orders))}</td>
              <td>{percent(one.clicks > 0 ? one.orders / one.clicks : null)}</td>
              <td>{one.orders > 0 ? money(one.sales / one.orders) : '–'}</td>
              <td>
                <b>{significant(one.factor)}</b> ({significant(low)} to {significant(high)})
              </td>
              <td title={verdictWords[one.verdict]}>
                {percent(one.acos)}
                {one.verdict === 'undecided' ? ' ?' : ''}
              </td>
              {total && <td>{money(total.sales)}</td>}
              {total && hasProfit && <td>{total.profit === null ? '–' : money(total.profit)}</td>}
            </tr>
          );
        })}
      </tbody>
    </Box>
  );
}
