import Joi from 'joi';
import type { TestingAnswer, TestRow } from '../../answers/testing.ts';
import type { RunningTest } from '../../core/round/types.ts';
import { daysBetween, windowEnding, type Day } from '../../core/metrics/days.ts';
import { learnedOf } from '../../core/testing/learned.ts';
import { testDays, testWeeks } from '../../core/testing/plan.ts';
import { getAccount, settling } from '../account/account.ts';
import { db, type Database, type Transaction } from '../db/connection.ts';
import { runningTests, setShare, spendOf, testLines, type TestLine } from './queries.ts';

/** A share of spend that is set aside to learn about what is quiet or rests; what is tried, and what was learned. */

/** Days that a usual week's spend is taken from. */
export const spendDays = 30;
/** More tests are not told: the newest. */
const mostTests = 2000;

export const testingSchema = Joi.object<{ share: number }>({
  share: Joi.number().min(0).max(0.5).required().messages({
    'number.min': 'A share is 0 % or more.',
    'number.max': 'At most 50 % of spend can be set aside to learn.',
  }),
});

/** Tests that run, by target, as judging holds their bids by them. */
export async function testsRunning(
  sql: Database,
  accountId: number,
  today: Day,
): Promise<Map<string, RunningTest>> {
  const rows = await runningTests(sql, accountId, today);
  return new Map(
    rows.map(({ target_id: id, until, test, spent, days }) => [
      id,
      // What spends more than was expected takes more of the share.
      { until, spend: Math.max(test.spend, (spent * testDays) / Math.max(1, days)) / testWeeks },
    ]),
  );
}

/** The share, and every test with what it brought and taught. */
export async function testingOf(accountId: number): Promise<TestingAnswer> {
  const account = await getAccount(db(), accountId);
  const { today, testing_share: share } = account;
  if (today === null) return { share, weekSpend: null, tests: [] };
  const { settledTo } = await settling(db(), account);
  const spend =
    settledTo === null ? null : await spendOf(db(), accountId, windowEnding(settledTo, spendDays));
  const lines = await testLines(db(), accountId, mostTests);
  return {
    share,
    weekSpend: spend === null ? null : Math.round((spend / spendDays) * 7),
    tests: lines.map((line) => rowOf(line, today, settledTo)),
  };
}

function rowOf(line: TestLine, today: Day, settledTo: Day | null): TestRow {
  const { since, until, test, clicks, orders, spend, sales } = line;
  const isSettled = settledTo !== null && until <= settledTo;
  const told = today < until ? today : until;
  return {
    lineId: line.line_id,
    targetId: line.target_id,
    name: line.expression,
    matchType: line.match_type,
    kind: line.kind,
    adGroup: line.ad_group,
    campaign: line.campaign,
    sku: line.sku,
    from: line.old_bid,
    to: line.new_bid,
    test,
    since,
    until,
    days: Math.max(0, daysBetween(since, told) + 1),
    state: until >= today ? 'running' : isSettled ? 'over' : 'settling',
    isEndedEarly: daysBetween(line.sent_on, until) < testWeeks * 7,
    clicks,
    orders,
    spend,
    sales,
    learned: isSettled && until < today ? learnedOf(test, { clicks, orders }) : null,
  };
}

/** Sets the share of spend that is set aside, 0 to 0.5. */
export async function setTestingShare(accountId: number, share: number): Promise<void> {
  await db().begin((tx) => setShare(tx as unknown as Transaction, accountId, share));
}
