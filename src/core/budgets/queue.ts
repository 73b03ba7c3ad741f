import { nowhere, type QueueRow } from '../round/queue.ts';
import { optionShort, sentenceOfBudget } from './explain.ts';
import { budgetKey } from './lines.ts';
import type { BudgetRow } from './rows.ts';

/** A campaign whose budget runs dry as a row of the round; only of one that has a finding, or one that a cooldown holds. */
export function budgetQueueRow(row: BudgetRow): QueueRow {
  const { campaignId, name, sku, targetAcos, lines, proposal, sums } = row;
  const { chosen, held, over } = proposal!;
  return {
    ...nowhere,
    key: budgetKey(campaignId),
    queue: 'budgets',
    subject: name,
    campaignId,
    sku,
    verdict: over >= 0.8 ? 'over' : over <= 0.2 ? 'under' : 'undecided',
    proposal: {
      kind: 'budget',
      way: chosen.kind,
      short: optionShort(row, chosen),
      held,
      lines,
      sentence: sentenceOfBudget(row),
    },
    worth: chosen.worth,
    interval: null,
    targetAcos,
    sums,
    claims: [],
    takes: 0,
  };
}
