import type { OpenSheet } from '../../answers/changes.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { at } from '../address.ts';
import { acosAfter } from '../../core/changes/lines.ts';
import { counted, money, percent, signedMoney } from '../../core/metrics/format.ts';
import { useSheet } from './data.ts';
import { overGoalText } from './overGoal.ts';

const nameOfScope = ({ scope, key, name }: OpenSheet['overGoal'][number]): string =>
  scope === 'account' ? 'account' : scope === 'product' ? key : name;

/** Nothing is said of a sheet that has not been read. */
const saidOf = (lines: number | null, failed: boolean): string => {
  if (lines === null) return failed ? 'The sheet could not be read' : 'Counting the lines of the sheet';
  return lines === 0 ? 'The sheet is empty' : `${counted(lines, 'line')} on the sheet`;
};

/** The open change sheet, always in sight: nothing leaves for the marketplace except through it. */
export function SheetBar() {
  const { data, isError } = useSheet();
  const lines = data?.lines ?? 0;
  const effect = data?.effect;
  const isForecast = data !== undefined && data.unforecast < data.lines;
  const week = data?.week;
  const after = week && effect ? acosAfter(week, effect) : null;
  const acos = (spend: number, sales: number) =>
    sales > 0 ? `${((100 * spend) / sales).toFixed(1)} %` : '–';
  return (
    <Box
      component="footer"
      sx={{
        gridArea: 'bar',
        bgcolor: (theme) => theme.palette.roles.night,
        color: (theme) => theme.palette.roles.onNight,
        display: 'flex',
        alignItems: 'center',
        gap: 3,
        px: 2,
        typography: 'body2',
        '& span': { opacity: 0.75 },
      }}
    >
      <b data-testid="sheet-lines">{saidOf(data ? lines : null, isError)}</b>
      {effect && lines > 0 && (
        <>
          {isForecast ? (
            <>
              <div>
                <span>spend</span> <b>{signedMoney(effect.spend)}</b>{' '}
                <span>± {money(effect.spendSpread)} a week</span>
              </div>
              <div>
                <span>sales</span> <b>{signedMoney(effect.sales)}</b>{' '}
                <span>± {money(effect.salesSpread)}</span>
              </div>
            </>
          ) : (
            <span>what they change in money is not forecast</span>
          )}
          {data.newBudgets.daily > 0 && (
            <div>
              <span>new campaigns</span> <b>up to {money(data.newBudgets.daily)}</b> <span>a day</span>
            </div>
          )}
          {data.newBudgets.lifetime > 0 && (
            <div>
              <span>new campaigns</span> <b>up to {money(data.newBudgets.lifetime)}</b> <span>in all</span>
            </div>
          )}
          {week && isForecast && (
            <div>
              <span>ACOS</span>{' '}
              <b>
                {acos(week.spend, week.sales)} → {acos(week.spend + effect.spend, week.sales + effect.sales)}
              </b>{' '}
              {after && (
                <span>
                  {percent(after.low)} to {percent(after.high)}
                </span>
              )}
            </div>
          )}
        </>
      )}
      <Box sx={{ flex: 1 }} />
      {data && data.overGoal.length > 0 && (
        <b title={data.overGoal.map(overGoalText).join(' ')} data-testid="sheet-over-goal">
          {nameOfScope(data.overGoal[0]!)} over its goal
          {data.overGoal.length > 1 && ` and ${data.overGoal.length - 1} more`}
        </b>
      )}
      {data && data.conflicts > 0 && <b>{data.conflicts} lines conflict</b>}
      <Button
        href={at('/ledger')}
        disabled={lines === 0}
        sx={{
          bgcolor: (theme) => theme.palette.roles.onNight,
          color: (theme) => theme.palette.roles.night,
          '&:hover': {
            bgcolor: (theme) => theme.palette.roles.surface,
            color: (theme) => theme.palette.roles.ink,
          },
          '&.Mui-disabled': { bgcolor: 'transparent', color: 'inherit', opacity: 0.5 },
        }}
      >
        Check and send
      </Button>
    </Box>
  );
}
