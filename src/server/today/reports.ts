import type { ReportAnswer, ReportSummary } from '../../answers/today.ts';
import type { Window } from '../../core/metrics/days.ts';
import { reportBody, reportHtml } from '../../core/report/html.ts';
import { usualWords, type Report, type ReportFigures } from '../../core/report/report.ts';
import { getAccount } from '../account/account.ts';
import { config } from '../config.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { paceOf } from './pace.ts';
import { printed } from './print.ts';
import { addReport, markReportRemoved, putWords, reportById, reportRows } from './report.queries.ts';
import { movedOf, todayAnswer } from './today.ts';

/** Reports on a period: figures as they stood on the day it was made, with the specialist's words. */

const shownMembers = 6;

export const reportsOf = (accountId: number): Promise<ReportSummary[]> => reportRows(db(), accountId);

/** Makes a report on a window: all its figures are kept with it, and words to begin with. */
export async function makeReport(accountId: number, window: Window): Promise<{ reportId: number }> {
  const account = await getAccount(db(), accountId);
  const answer = await todayAnswer(accountId, window);
  const pace = await paceOf(accountId);
  const [own] = pace.lines;
  const split = async (figure: 'sales' | 'acos') => {
    const { members, ...moved } = await movedOf(accountId, {
      figure,
      by: 'product',
      window,
      sku: null,
      campaignId: null,
    });
    return {
      figure,
      before: moved.before,
      after: moved.after,
      parts: moved.parts,
      members: members.slice(0, shownMembers).map(({ name, change, parts }) => ({ name, change, parts })),
    };
  };
  const landing = (label: string, measure: NonNullable<typeof own>['spend'] | null) =>
    measure === null
      ? []
      : [
          {
            label,
            plan: measure.plan,
            landing: {
              done: measure.done,
              middle: measure.middle,
              low: measure.low,
              high: measure.high,
              left: measure.left,
            },
          },
        ];
  const figures: ReportFigures = {
    account: account.name,
    currency: account.currency,
    window: answer.window,
    compare: answer.compare,
    settledTo: answer.settledTo,
    targetAcos: answer.goal.targetAcos,
    now: answer.now,
    before: answer.before,
    moved: [await split('sales'), await split('acos')],
    pace: own
      ? [
          ...landing('Spend', own.spend),
          ...landing('Ad sales', own.sales),
          ...landing('Revenue', own.revenue),
        ]
      : [],
    month: pace.month.first,
    sheets: answer.sheets
      .filter(({ sentOn }) => sentOn >= answer.window.from)
      .map(({ sentOn, lines, scored, said, seen }) => ({ sentOn, lines, scored, said, seen })),
    notes: answer.notes
      .filter(({ day, toDay }) => toDay >= answer.window.from && day <= answer.today)
      .map(({ day, toDay, name, body }) => ({ day, toDay, name, body })),
  };
  const report = { madeOn: answer.today, words: usualWords(figures), figures };
  return (await db().begin(async (tx) => ({
    reportId: await addReport(tx as Transaction, accountId, window, report),
  }))) as { reportId: number };
}

async function known(accountId: number, reportId: number): Promise<Report> {
  const report = await reportById(db(), accountId, reportId);
  if (!report) throw notFound(`report ${reportId}`);
  return report;
}

export async function reportOf(accountId: number, reportId: number): Promise<ReportAnswer> {
  const report = await known(accountId, reportId);
  return { ...report, body: reportBody(report), canPrint: config.chromium !== '' };
}

export async function setReportWords(accountId: number, reportId: number, words: string): Promise<void> {
  await db().begin(async (tx) => {
    if ((await putWords(tx as Transaction, accountId, reportId, words)) === 0)
      throw notFound(`report ${reportId}`);
  });
}

export async function removeReport(accountId: number, reportId: number): Promise<void> {
  await db().begin(async (tx) => {
    if ((await markReportRemoved(tx as Transaction, accountId, reportId)) === 0)
      throw notFound(`report ${reportId}`);
  });
}

/** A report as a file: one page of HTML, or as PDF where a browser is there to print it. */
export async function reportFile(accountId: number, reportId: number, format: string): Promise<Response> {
  const report = await known(accountId, reportId);
  const { window } = report.figures;
  const name = `report-${window.from}-${window.to}`;
  if (format === 'html')
    return new Response(reportHtml(report), {
      headers: {
        'content-type': 'text/html; charset=utf-8',
        'content-disposition': `inline; filename="${name}.html"`,
      },
    });
  if (format !== 'pdf')
    throw new ServiceError(422, 'unknown_format', 'A report is a file of html or pdf.', { field: 'as' });
  const bytes = await printed(reportHtml(report));
  return new Response(new Uint8Array(bytes), {
    headers: {
      'content-type': 'application/pdf',
      'content-disposition': `attachment; filename="${name}.pdf"`,
    },
  });
}
