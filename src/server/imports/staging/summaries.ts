import type { Transaction } from '../../db/connection.ts';
import { campaignKey, mergeCampaignNames } from './campaigns.queries.ts';
import { mergeObjects, mergeTerms, makeStaging } from './facts.queries.ts';
import { inBatches, type Loader } from './loader.ts';
import { Names, targetLine } from './names.ts';
import type { RowCheck, Values } from '../files/read.ts';
import { copyInto, copyText } from '../../db/copy.ts';
import { makeStaged, stagedFigures, stageRows } from './tables.ts';

/** Files that tell sums of a span of days. They count in windows that hold the whole span (formats). */

export type SummaryKind = 'targets-daily' | 'terms-daily' | 'placements-daily';

const staged = {
  start_date: 'date',
  end_date: 'date',
  campaign: 'text',
  campaign_id: 'text',
  placement: 'text',
  target_id: 'bigint',
  term_id: 'bigint',
  ...stagedFigures,
};

export async function openSummary(
  tx: Transaction,
  accountId: number,
  kind: SummaryKind,
  check: RowCheck,
): Promise<Loader> {
  await makeStaging(tx);
  await makeStaged(tx, 'staged_summary', staged);
  let [first, last]: [string | null, string | null] = [null, null];
  return inBatches(
    check,
    async (rows) => {
      for (const { start_date, end_date } of rows) {
        if (first === null || (start_date as string) < first) first = start_date as string;
        if (last === null || (end_date as string) > last) last = end_date as string;
      }
      await stage(tx, accountId, kind, rows);
    },
    async () => {
      await mergeSummary(tx, accountId, kind);
      return { days: [], firstDay: first, lastDay: last };
    },
  );
}

async function stage(tx: Transaction, accountId: number, kind: SummaryKind, rows: Values[]): Promise<void> {
  let targetIds: number[] = [];
  let termIds: number[] = [];
  const targets = new Names();
  const terms = new Names();
  if (kind !== 'placements-daily') {
    const objects: string[] = [];
    for (const row of rows) {
      const { key, line } = targetLine(row);
      const { number, isNew } = targets.numberOf(key);
      if (isNew) objects.push(`${number}\t${line()}\n`);
      row.target_number = number;
    }
    await copyInto(tx, 'staged_target', objects);
    targetIds = await mergeObjects(tx, accountId);
  }
  if (kind === 'terms-daily') {
    const texts: string[] = [];
    for (const row of rows) {
      const term = row.term as string;
      const { number, isNew } = terms.numberOf(term);
      if (isNew) texts.push(`${number}\t${copyText(term)}\n`);
      row.term_number = number;
    }
    await copyInto(tx, 'staged_term', texts);
    termIds = await mergeTerms(tx, accountId);
  }
  const known = rows.map((row) => ({
    ...Object.fromEntries(Object.keys(stagedFigures).map((name) => [name, row[name] ?? 0])),
    units: row.units ?? row.orders ?? 0,
    start_date: row.start_date,
    end_date: row.end_date,
    ...(kind === 'placements-daily'
      ? { campaign: row.campaign, campaign_id: row.campaign_id, placement: row.placement }
      : { target_id: targetIds[row.target_number as number] }),
    ...(kind === 'terms-daily' ? { term_id: termIds[row.term_number as number] } : {}),
  }));
  await stageRows(tx, 'staged_summary', staged, known);
}

/** The same span told again replaces what was told of it. */
async function mergeSummary(tx: Transaction, accountId: number, kind: SummaryKind): Promise<void> {
  await mergeCampaignNames(tx, accountId, 'staged_summary');
  await tx`
    delete from summary m using (select distinct start_date, end_date from staged_summary) s
    where m.account_id = ${accountId} and m.kind = ${kind} and m.first_day = s.start_date and m.last_day = s.end_date`;
  await tx`
    insert into summary
    select ${accountId}, ${kind}, s.start_date, s.end_date, c.id, s.placement, s.target_id, s.term_id,
      sum(s.impressions), sum(s.clicks), sum(s.spend), sum(s.orders), sum(s.units), sum(s.sales)
    from staged_summary s left join staged_campaign_id c on c.key = ${campaignKey(tx)}
    group by s.start_date, s.end_date, c.id, s.placement, s.target_id, s.term_id`;
}
