import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import {
  lostSaid,
  optionNames,
  optionShort,
  sentenceOfBudget,
  workingOfBudget,
} from '../../core/budgets/explain.ts';
import { budgetKey } from '../../core/budgets/lines.ts';
import type { AloneAnswer } from '../../answers/spend.ts';
import type { BudgetRow } from '../../core/budgets/rows.ts';
import type { BudgetLimit } from '../../core/budgets/rules.ts';
import type { Window } from '../../core/metrics/days.ts';
import { counted, money, signedMoney, percent, significant } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { MoneyField } from '../../ui/parts/MoneyField.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { Working } from '../../ui/parts/Working.tsx';
import { smallTable } from '../../ui/parts/smallTable.ts';
import { sizes } from '../../ui/theme.ts';
import { BudgetDays } from './BudgetDays.tsx';

interface BudgetPanelProps {
  row: BudgetRow;
  /** What of it is on the sheet already, in words. */
  state: string | null;
  window: Window;
  minimum: Micros;
  limit: BudgetLimit | null;
  /** Its best keyword, where the budget starves it. */
  alone: AloneAnswer['found'][number] | null;
}

/** Why a budget should change, its hours, the ways out side by side, and how it is set by hand. */
export function BudgetPanel({ row, state, window, minimum, limit, alone }: BudgetPanelProps) {
  const { putLines, changeBudgetLimit } = useAct();
  const [budget, setBudget] = useState<Micros | null>(row.budget);
  const { campaignId, name, proposal } = row;
  const tooLow = budget !== null && budget < minimum;
  const isChanged = budget !== null && budget !== row.budget;
  const take = (way: string) =>
    void putLines(
      '/api/round/accept',
      { ...window, keys: [budgetKey(campaignId)], adjustments: { [budgetKey(campaignId)]: { way } } },
      `budget of ${name} accepted`,
    );
  const put = () =>
    void putLines(
      '/api/spend/budgets',
      { ...window, budgets: [{ campaignId, budget }], source: 'hand' },
      `budget of ${name} set`,
    );
  const takeAlone = () => {
    if (alone && !alone.isOnSheet)
      void putLines(
        '/api/round/accept',
        { ...window, keys: [alone.key], adjustments: {} },
        `campaign for the best keyword of ${name} accepted`,
      );
  };
  useHotkeys('o', takeAlone, [alone, window]);
  useHotkeys('e', () => document.querySelector<HTMLInputElement>('[data-budget] input')?.focus(), {
    preventDefault: true,
  });
  const limits: BudgetLimit = limit ?? { campaignId, least: null, most: null };
  return (
    <Panel label="Why" width={356}>
      <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
        {name}
      </Typography>
      <Typography data-testid="why-sentence" sx={{ mt: 1, fontSize: sizes.sentence, lineHeight: 1.45 }}>
        {row.budget === null
          ? 'It spends one budget for all its days: how long that lasts is told under Pace.'
          : proposal
            ? sentenceOfBudget(row)
            : lostSaid(row)}
        {proposal?.held.includes('cooldown') &&
          ' Its budget was changed in the last days: what that does comes first.'}
        {state !== null && ` It is ${state === 'on the sheet' ? state : `held back: ${state}`}.`}
      </Typography>
      <Part title="Hours with budget" explains="budget_hours">
        <BudgetDays days={row.days} width={314} height={92} isLarge />
      </Part>
      {proposal && (
        <Part title="Ways out, a week" explains="worth">
          <Box component="table" sx={smallTable}>
            <thead>
              <tr>
                <th scope="col" />
                <th scope="col">clicks</th>
                <th scope="col">spend</th>
                <th scope="col">sales</th>
                <th scope="col">worth</th>
                <th scope="col" />
              </tr>
            </thead>
            <tbody>
              {proposal.options.map((option) => (
                <tr key={option.kind}>
                  <th scope="row">
                    {optionNames[option.kind]}
                    <br />
                    <b>
                      {option.kind === 'lower_bids' ? optionShort(row, option) : `to ${money(option.budget)}`}
                    </b>
                  </th>
                  <td>{significant(Math.round(option.clicks * 10) / 10)}</td>
                  <td>{signedMoney(option.spend)}</td>
                  <td>{signedMoney(option.sales)}</td>
                  <td>
                    <b>{money(option.worth)}</b>
                  </td>
                  <td style={{ width: 44 }}>
                    <Button
                      size="small"
                      sx={{ minWidth: 0, px: 0.5 }}
                      disabled={state !== null}
                      onClick={() => take(option.kind)}
                    >
                      Take
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </Box>
          {proposal.over > 0.5 && proposal.chosen.kind !== 'slack' && (
            <Typography variant="body2" color="text.secondary">
              Over its goal with {percent(proposal.over)}: its budget is not raised.
            </Typography>
          )}
        </Part>
      )}
      {alone && (
        <Part title="Stand alone">
          {alone.sentence} {alone.repair}; worth about {money(alone.worth)} a week. {alone.loses}
          <Box sx={{ mt: 0.75 }}>
            <Button size="small" variant="outlined" disabled={alone.isOnSheet} onClick={takeAlone}>
              {alone.isOnSheet ? 'On the sheet' : `Put ${counted(alone.lines, 'line')} on the sheet`}
            </Button>
          </Box>
        </Part>
      )}
      {row.budget !== null && (
        <Part title="By hand" explains="daily_budget">
          <Box data-budget="" sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
            <span>
              <MoneyField label="Daily budget" value={budget} isWrong={tooLow} onChange={setBudget} /> a day
            </span>
            <Button size="small" variant="contained" disabled={!isChanged || tooLow} onClick={put}>
              Put on the sheet
            </Button>
          </Box>
          {tooLow && (
            <Typography color="error" variant="body2">
              {money(budget)} a day is below the marketplace’s least budget of {money(minimum)}.
            </Typography>
          )}
          <Box sx={{ mt: 0.75 }}>
            Of a total it gets at least{' '}
            <MoneyField
              label="At least, a day"
              value={limits.least}
              placeholder="–"
              width={56}
              onChange={(least) => void changeBudgetLimit(limits, { ...limits, least })}
            />{' '}
            and at most{' '}
            <MoneyField
              label="At most, a day"
              value={limits.most}
              placeholder="–"
              width={56}
              onChange={(most) => void changeBudgetLimit(limits, { ...limits, most })}
            />
          </Box>
        </Part>
      )}
      <Part title="How it comes about">
        <Working steps={workingOfBudget(row)} />
      </Part>
    </Panel>
  );
}
