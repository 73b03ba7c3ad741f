import { stringify } from 'csv-stringify/sync';
import type { ReadBudgets } from '../../answers/spend.ts';
import { fieldOf, valueProblem } from '../../core/changes/fields.ts';
import type { Window } from '../../core/metrics/days.ts';
import { micros, units } from '../../core/metrics/money.ts';
import { getAccount } from '../account/account.ts';
import { fieldLimitsOf } from '../account/limits.ts';
import { db } from '../db/connection.ts';
import { plainRows } from '../imports/files/plain.ts';
import { decimalMarks, readNumber } from '../imports/files/values.ts';
import { budgetRowsOf } from './budgets.ts';
import { campaignBudgets } from './queries.ts';

/** Daily budgets as CSV (formats), beside what campaigns spend; loaded, only `daily_budget` counts. */

const mostRows = 20_000;
const money = (value: number | null): number | '' =>
  value === null ? '' : units(Math.round(value / 1e4) * 1e4);

export async function budgetsCsv(accountId: number, window: Window): Promise<string> {
  const rows = new Map((await budgetRowsOf(accountId, window)).map((row) => [row.campaignId, row]));
  const lines = (await campaignBudgets(db(), accountId)).flatMap(({ id, name, extId, budget }) => {
    if (budget === null) return [];
    const row = rows.get(id);
    const full =
      row && row.full.length > 0 ? row.full.reduce((sum, day) => sum + day, 0) / row.full.length : null;
    return [
      {
        campaign: name,
        campaign_id: extId ?? '',
        daily_budget: units(budget),
        budget_share_of_time: row?.shown ?? '',
        spend_a_day: row && row.days.length > 0 ? money(row.sums.spend / row.days.length) : '',
        spend_a_full_day: money(full),
        lost_clicks_a_week: row ? Math.round(row.lost.clicks * 10) / 10 : '',
        lost_sales_a_week: row ? money(row.lost.sales) : '',
        proposed_budget: row?.proposal?.chosen.kind === 'raise' ? units(row.proposal.chosen.budget) : '',
      },
    ];
  });
  return stringify(lines, { header: true, escape_formulas: true });
}

type Column = 'campaign' | 'campaign_id' | 'daily_budget';

/** Reads a file of budgets: those that change something, and what is wrong with rows. Nothing is put on the sheet. */
export async function readBudgetsCsv(accountId: number, bytes: Uint8Array): Promise<ReadBudgets> {
  const told = plainRows<Column>(bytes, {
    noun: 'campaign',
    most: mostRows,
    needs: [['campaign', 'campaign_id'], ['daily_budget']],
    hint: 'A file of budgets has campaign or campaign_id, and daily_budget.',
  });
  const limits = fieldLimitsOf(await getAccount(db(), accountId));
  const campaigns = await campaignBudgets(db(), accountId);
  const low = (text: string) => text.trim().toLowerCase();
  const byExt = new Map(campaigns.flatMap((one) => (one.extId === null ? [] : [[one.extId, one] as const])));
  const byName = new Map(campaigns.map((one) => [low(one.name), one]));
  const [mark = '.'] = decimalMarks(told.map(({ record }) => record.daily_budget ?? ''));
  const field = fieldOf('campaign', 'daily_budget')!;
  const found: ReadBudgets = { budgets: [], problems: [] };
  const seen = new Map<string, number>();
  for (const { record, line } of told) {
    const wrong = (column: Column, message: string) => found.problems.push({ row: line, column, message });
    const campaign =
      (record.campaign_id && byExt.get(record.campaign_id)) || byName.get(low(record.campaign ?? ''));
    if (!campaign) {
      wrong(
        'campaign',
        `No campaign “${record.campaign ?? record.campaign_id ?? ''}” runs or is paused here.`,
      );
      continue;
    }
    const first = seen.get(campaign.id);
    if (first !== undefined) {
      wrong('campaign', `${campaign.name} stands in line ${first} already: one budget each.`);
      continue;
    }
    seen.set(campaign.id, line);
    const amount = readNumber(record.daily_budget ?? '', mark);
    if (amount === null) {
      wrong('daily_budget', `“${record.daily_budget ?? ''}” is no amount.`);
      continue;
    }
    if (campaign.budget === null) {
      wrong('daily_budget', `${campaign.name} has no daily budget: it spends one for all its days.`);
      continue;
    }
    const problem = valueProblem(field, String(micros(amount)), limits);
    if (problem !== null) wrong('daily_budget', problem);
    else if (micros(amount) !== campaign.budget)
      found.budgets.push({
        campaignId: campaign.id,
        name: campaign.name,
        from: campaign.budget,
        budget: micros(amount),
      });
  }
  return found;
}
