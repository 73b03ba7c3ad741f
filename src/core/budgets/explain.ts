import { eighty } from '../effect/forecast.ts';
import { count, counted, money, percent, significant } from '../metrics/format.ts';
import type { Step } from '../round/explain.ts';
import { headroom, type BudgetOption } from './propose.ts';
import type { BudgetRow } from './rows.ts';

/** Why a budget should change, in words and step by step. */

export const optionNames: Record<BudgetOption['kind'], string> = {
  raise: 'Raise the budget',
  lower_bids: 'Lower the bids',
  slack: 'Take the slack back',
};

/** What is proposed where there is little room: "5.00 → 9.60 a day", "bids × 0.78". */
export const optionShort = (
  { budget }: Pick<BudgetRow, 'budget'>,
  option: Pick<BudgetOption, 'kind' | 'budget' | 'bids'>,
): string =>
  option.kind === 'lower_bids'
    ? `bids × ${significant(option.bids)}`
    : `${money(budget ?? 0)} → ${money(option.budget)} a day`;

const between = (middle: number, spread: number, say: (value: number) => string): string =>
  `${say(Math.max(0, middle - eighty * spread))} to ${say(middle + eighty * spread)}`;

/** What it missed a week, in words. */
export function lostSaid({ shown, lost, caught }: Pick<BudgetRow, 'shown' | 'lost' | 'caught'>): string {
  if (shown === null) return 'When its budget is spent is not told: the report “campaign-hours” does.';
  if (lost.clicks <= 0) return 'Its budget lasts.';
  return (
    `It has budget for ${percent(shown)} of its clicks’ time and misses about ${counted(Math.round(lost.clicks), 'click')} ` +
    `a week (${between(lost.clicks, lost.clicksSpread, count)}), and with them ${money(lost.sales)} of sales ` +
    `(${between(lost.sales, lost.salesSpread, money)})` +
    (caught > 0.005 ? `; about ${percent(caught)} of that its product’s other campaigns catch.` : '.')
  );
}

const expectedAcos = ({ cpc, earns }: BudgetRow): number | null =>
  cpc !== null && earns > 0 ? cpc / earns : null;

const meanFull = ({ full }: BudgetRow): number =>
  full.reduce((sum, day) => sum + day, 0) / Math.max(1, full.length);

/** Why, in words with the numbers; only of a row with a proposal. */
export function sentenceOfBudget(row: BudgetRow, chosen = row.proposal!.chosen): string {
  const { budget, targetAcos, full } = row;
  const { over } = row.proposal!;
  if (chosen.kind === 'slack')
    return (
      `It spends ${money(meanFull(row))} a day and never spent more than ${money(Math.max(...full))}: of its ` +
      `${money(budget ?? 0)}, ${money((budget ?? 0) - chosen.budget)} lie idle. They may go where money is short.`
    );
  const acos = `At an expected ACOS of ${percent(expectedAcos(row))} it is`;
  if (chosen.kind === 'lower_bids')
    return (
      `${lostSaid(row)} ` +
      (over > 0.5
        ? `${acos} over its goal of ${percent(targetAcos)} with ${percent(over)}: a bigger budget would buy more loss. `
        : 'A bigger budget would gain less than cheaper clicks. ') +
      `With bids × ${significant(chosen.bids)} the same money lasts longer: ${counted(Math.max(0, Math.round(chosen.clicks)), 'click')} a week more, and ${money(-chosen.spend)} less spent.`
    );
  return (
    `${lostSaid(row)} ${acos} under its goal of ${percent(targetAcos)} with ${percent(1 - over)}. ` +
    `${money(chosen.budget)} a day would sell ${money(chosen.sales)} a week more, for ${money(chosen.spend)}.`
  );
}

/** The working, to be redone by hand. */
export function workingOfBudget(row: BudgetRow): Step[] {
  const { proposal, budget, cpc, earns, lost, full, theta, sums, shown, caught } = row;
  const steps: Step[] = [];
  if (shown !== null && shown < 1)
    steps.push({
      name: 'Clicks missed a week',
      formula:
        `${counted(sums.clicks, 'click')} in ${percent(shown)} of their time over ${counted(full.length, 'day')}; each ` +
        'day that ran dry was as busy as it had been until then',
      result: significant(lost.clicks),
    });
  if (cpc !== null)
    steps.push(
      {
        name: 'A full day spends',
        formula: `the mean of ${counted(full.length, 'day')}: what each spent, and ${money(cpc)} for each click missed`,
        result: money(meanFull(row)),
      },
      { name: 'A click sells, as expected', formula: 'its targets by their clicks', result: money(earns) },
    );
  if (!proposal) return steps;
  for (const option of proposal.options) {
    if (option.kind === 'slack') continue;
    const isRaise = option.kind === 'raise';
    steps.push(
      {
        name: isRaise ? 'Raise: to' : 'Lower the bids: times',
        formula: isRaise
          ? `${money(meanFull(row))} × ${headroom}, up to ten cents; at most twice ${money(budget ?? 0)}`
          : `what buys most clicks for ${money(budget ?? 0)} a day, by how clicks and CPC answer bids`,
        result: isRaise ? money(option.budget) : significant(option.bids),
      },
      {
        name: isRaise ? 'Raise: worth a week' : 'Lower the bids: worth a week',
        formula:
          `${significant(theta)} × ${money(option.sales)} more sold (${significant(option.own)} clicks × ${significant(1 - caught)} × ${money(earns)}) ` +
          `− ${money(option.spend)} more spent, the product’s other campaigns in`,
        result: money(option.worth),
      },
    );
  }
  return steps;
}
