import type { ReportSummary } from '../../answers/today.ts';
import type { Report, ReportFigures } from '../../core/report/report.ts';
import type { Window } from '../../core/metrics/days.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Reports of the account, the newest first. */
export async function reportRows(sql: Database, accountId: number): Promise<ReportSummary[]> {
  return sql<ReportSummary[]>`
    select report_id as "reportId", first_day as "from", last_day as "to", made_on as "madeOn",
      left(words, 200) as words
    from report where account_id = ${accountId} and removed_at is null order by report_id desc limit 500`;
}

export async function reportById(
  sql: Database,
  accountId: number,
  reportId: number,
): Promise<Report | undefined> {
  const [row] = await sql<Report[]>`
    select report_id as "reportId", made_on as "madeOn", words, figures from report
    where account_id = ${accountId} and report_id = ${reportId} and removed_at is null`;
  return row;
}

export async function addReport(
  tx: Transaction,
  accountId: number,
  { from, to }: Window,
  { madeOn, words, figures }: Omit<Report, 'reportId'>,
): Promise<number> {
  const [row] = await tx<{ report_id: number }[]>`
    insert into report (account_id, first_day, last_day, made_on, figures, words)
    values (${accountId}, ${from}, ${to}, ${madeOn}, ${tx.json(figures as ReportFigures as never)}, ${words})
    returning report_id`;
  return row!.report_id;
}

/** Writes the words of a report; one that was removed comes back by it. How many there are of it. */
export async function putWords(
  tx: Transaction,
  accountId: number,
  reportId: number,
  words: string,
): Promise<number> {
  const { count } = await tx`
    update report set words = ${words}, removed_at = null
    where account_id = ${accountId} and report_id = ${reportId}`;
  return count;
}

export async function markReportRemoved(
  tx: Transaction,
  accountId: number,
  reportId: number,
): Promise<number> {
  const { count } = await tx`
    update report set removed_at = now()
    where account_id = ${accountId} and report_id = ${reportId} and removed_at is null`;
  return count;
}
