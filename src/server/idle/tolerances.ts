import type { ToleranceRow } from '../../answers/idle.ts';
import { windowEnding, type Day } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { getAccount, settling } from '../account/account.ts';
import { goalLookup } from '../changes/scopes.ts';
import { db, type Transaction } from '../db/connection.ts';
import { noFigures } from '../engine/edition.ts';
import { ServiceError } from '../errors.ts';
import { rankWorths } from '../organic/index.ts';
import { borneBy, dropTolerances, putTolerance, ranksOf, toleranceRows, type Borne } from './queries.ts';

/** Losses that are borne on purpose: out of the queue while they stay within their amount and their time. */

/** Days that a loss is reckoned from. */
const lossDays = 30;
/** Without an amount: what it loses now, and a fifth more. */
const room = 1.2;

/** What a finding's key is about. */
function subjectOf(key: string): { targetId: string } | { adGroupId: string; term: string } | null {
  const target = /^target:(\d{1,18}):bid$/.exec(key);
  if (target) return { targetId: target[1]! };
  const term = /^term:(\d{1,18}):(.+)$/s.exec(key);
  return term ? { adGroupId: term[1]!, term: term[2]! } : null;
}

async function lossesOf(
  accountId: number,
  keys: readonly string[],
): Promise<{ window: { from: Day; to: Day }; today: Day; losses: Map<string, Borne & { loss: Micros }> }> {
  const account = await getAccount(db(), accountId);
  const { settledTo } = await settling(db(), account);
  if (account.today === null || settledTo === null) throw noFigures();
  const window = windowEnding(settledTo, lossDays);
  const subjects = keys.map(subjectOf);
  const targetIds = subjects.flatMap((one) => (one && 'targetId' in one ? [one.targetId] : []));
  const terms = subjects.flatMap((one) => (one && 'term' in one ? [one] : []));
  const goalAt = await goalLookup(accountId);
  const rows = await borneBy(db(), accountId, targetIds, terms, window.from, window.to);
  const losses = new Map(
    rows.map((row) => {
      const { targetAcos } = goalAt(row.campaign_id, row.ad_group_id);
      return [
        row.finding_key,
        { ...row, loss: Math.round(((row.spend - targetAcos * row.sales) / lossDays) * 7) },
      ];
    }),
  );
  return { window, today: account.today, losses };
}

/** Why a tolerated loss is back in the queue; null while it holds. */
const whyBack = (
  { amount, until }: { amount: Micros; until: Day | null },
  loss: Micros,
  today: Day,
): ToleranceRow['back'] => (until !== null && until < today ? 'over' : loss > amount ? 'beyond' : null);

/** Every tolerated loss as it stands, with what its keyword's rank and its product's organic sales do. */
export async function tolerancesOf(accountId: number): Promise<ToleranceRow[]> {
  const rows = await toleranceRows(db(), accountId);
  if (rows.length === 0) return [];
  const { window, today, losses } = await lossesOf(
    accountId,
    rows.map((row) => row.finding_key),
  );
  const known = [...losses.values()];
  const pairs = known.flatMap(({ sku, name }) => (sku === null ? [] : [{ sku, keyword: name }]));
  const ranks = await ranksOf(db(), accountId, pairs, window.from, today);
  const earns = await rankWorths(accountId, [...new Set(pairs.map(({ sku }) => sku))], window);
  return rows.flatMap((row): ToleranceRow[] => {
    const borne = losses.get(row.finding_key);
    // What it was about has gone.
    if (!borne) return [];
    const { name, match_type, ad_group, campaign, sku, loss } = borne;
    return [
      {
        toleranceId: row.tolerance_id,
        findingKey: row.finding_key,
        name,
        matchType: match_type,
        adGroup: ad_group,
        campaign,
        sku,
        amount: row.amount,
        reason: row.reason,
        until: row.until,
        since: row.since,
        loss,
        back: whyBack(row, loss, today),
        rank: ranks.get(`${sku ?? ''}\t${name.toLowerCase()}`) ?? { first: null, last: null },
        earns: sku === null ? null : earns(sku, name),
      },
    ];
  });
}

/** The losses that hold, a week each, by the findings that they keep out of the queue. */
export async function borneLosses(accountId: number): Promise<Map<string, Micros>> {
  const rows = await toleranceRows(db(), accountId);
  if (rows.length === 0) return new Map();
  const { today, losses } = await lossesOf(
    accountId,
    rows.map((row) => row.finding_key),
  );
  return new Map(
    rows.flatMap((row) => {
      const loss = losses.get(row.finding_key)?.loss;
      return loss === undefined || whyBack(row, loss, today) !== null ? [] : [[row.finding_key, loss]];
    }),
  );
}

/** What is tolerated; null: it is not any more. Without an amount: what it loses now, and a fifth more. */
export interface ToleranceCall {
  entries: {
    findingKey: string;
    tolerance: { amount: Micros | null; reason: string; until: Day | null; since?: Day } | null;
  }[];
}

/** Sets and ends tolerances, all or none. */
export async function setTolerances(accountId: number, { entries }: ToleranceCall): Promise<void> {
  const { today, losses } = await lossesOf(
    accountId,
    entries.map(({ findingKey }) => findingKey),
  );
  await db().begin(async (transaction) => {
    const tx = transaction as unknown as Transaction;
    await dropTolerances(
      tx,
      accountId,
      entries.flatMap(({ findingKey, tolerance }) => (tolerance ? [] : [findingKey])),
    );
    for (const { findingKey, tolerance } of entries) {
      if (!tolerance) continue;
      const borne = losses.get(findingKey);
      if (!borne)
        throw new ServiceError(404, 'not_found', 'What shall be tolerated is not there any more.', {
          field: 'findingKey',
        });
      const { reason, until } = tolerance;
      if (until !== null && until < today)
        throw new ServiceError(422, 'until_over', `${until} is over: choose a day from ${today} on.`, {
          field: 'until',
        });
      const amount = tolerance.amount ?? Math.max(10_000, Math.ceil((borne.loss * room) / 10_000) * 10_000);
      const since = tolerance.since ?? today;
      await putTolerance(tx, accountId, { finding_key: findingKey, amount, reason, until, since });
    }
  });
}
