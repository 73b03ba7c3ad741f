import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { AfterAnswer } from '../../answers/hours.ts';
import { flat, readSchedule, scheduleSaid } from '../../core/account/schedule.ts';
import { count, counted, money, signedMoney, significant } from '../../core/metrics/format.ts';
import { Part } from '../../ui/parts/Panel.tsx';
import { smallTable } from '../../ui/parts/smallTable.ts';
import { shortDay } from '../../ui/days.ts';

const told = (text: string): string => scheduleSaid(readSchedule(text) ?? flat());
const percentSaid = (value: number): string => (value === 0 ? 'off' : `${value} %`);

/** What the last change of a schedule did: the same times before and after, and the product's rank and organic orders beside it. */
export function AfterPart({ answer }: { answer: AfterAnswer }) {
  const { change, after, controls, rank, organic } = answer;
  if (!change || !after) return null;
  const { weeks } = after;
  const isEarly = weeks.after === 0;
  return (
    <Part title="What the last change did" explains="schedule_effect">
      <Typography variant="body2" data-testid="after-sentence">
        On {shortDay(change.day)}: {told(change.from)} → {told(change.to)}.{' '}
        {isEarly
          ? 'No whole settled week has passed since: too early to say.'
          : weeks.before === 0
            ? 'No whole week is known before it: nothing to compare with.'
            : `${counted(weeks.after, 'week')} after beside ${counted(weeks.before, 'week')} before, as ${controls === 0 ? 'they were' : `${counted(controls, 'campaign')} moved that kept their schedules`}.`}
      </Typography>
      {!isEarly && weeks.before > 0 && (
        <Box component="table" sx={{ ...smallTable, mt: 0.5 }}>
          <thead>
            <tr>
              <th scope="col">a week</th>
              <th scope="col">bids</th>
              <th scope="col">clicks</th>
              <th scope="col">orders</th>
              <th scope="col">spend</th>
              <th scope="col">gain against the goal</th>
            </tr>
          </thead>
          <tbody>
            {[
              ...after.times.map(({ name, from, to, compared }) => ({
                name,
                bids: from === to ? percentSaid(to) : `${percentSaid(from)} → ${percentSaid(to)}`,
                compared,
              })),
              ...(after.times.length > 1 ? [{ name: 'the campaign', bids: '', compared: after.whole }] : []),
            ].map(({ name, bids, compared: { before, expected, after: now, decided } }) => (
              <tr key={`${name} ${bids}`}>
                <th scope="row" style={{ whiteSpace: 'normal' }}>
                  {name}
                </th>
                <td>{bids}</td>
                <td title={`expected ${significant(expected.clicks)}`}>
                  {count(Math.round(before.clicks))} → {count(Math.round(now.clicks))}
                </td>
                <td title={`expected ${significant(expected.orders)}`}>
                  {significant(before.orders)} → {significant(now.orders)}
                </td>
                <td title={`expected ${money(expected.spend)}`}>
                  {money(before.spend)} → {money(now.spend)}
                </td>
                <td>
                  <b>{signedMoney(decided!.value)}</b> ({signedMoney(decided!.low)} to{' '}
                  {signedMoney(decided!.high)})
                </td>
              </tr>
            ))}
          </tbody>
        </Box>
      )}
      {(rank || organic) && (
        <Typography variant="body2" sx={{ mt: 0.5 }}>
          {rank &&
            `Organic rank over ${counted(rank.keywords, 'keyword')}: ${significant(rank.before)} → ${significant(rank.after)}. `}
          {organic &&
            `Organic orders of the product: ${significant(organic.before)} → ${significant(organic.after)} a week.`}
        </Typography>
      )}
      {rank?.fell && (
        <Typography variant="body2" color="error" role="alert">
          The organic rank fell meanwhile. What the schedule saves may cost organic orders: look at them
          before you go on.
        </Typography>
      )}
    </Part>
  );
}
