import type { ConditionsAnswer, MetRow } from '../../answers/spend.ts';
import type { Window } from '../../core/metrics/days.ts';
import { daysOf, metBy, sentenceOfMet, type Condition } from '../../core/placements/conditions.ts';
import type { PlacedRow } from '../../core/placements/findings.ts';
import { placementName } from '../../core/placements/names.ts';
import { getAccount } from '../account/account.ts';
import { fieldLimitsOf } from '../account/limits.ts';
import { productsOf } from '../account/queries.ts';
import { openBids } from '../changes/lines.queries.ts';
import { addDrafts, type Accepted } from '../changes/open.ts';
import { db, type Transaction } from '../db/connection.ts';
import { noFigures } from '../engine/edition.ts';
import { ServiceError } from '../errors.ts';
import { modifiersChanged } from '../facts/placements.queries.ts';
import { conditionRows, lastPlacementDay, placementSumsOver, putConditions } from './conditions.queries.ts';
import { placementDraftsOf, placementRows } from './placements.ts';

/** Conditions of one's own on placements: kept as a whole, asked when somebody looks, accepted like findings. */

async function metNow(
  accountId: number,
  conditions: readonly Condition[],
  rows: readonly PlacedRow[],
): Promise<MetRow[]> {
  const sql = db();
  const { today } = await getAccount(sql, accountId);
  if (today === null) throw noFigures();
  const last = await lastPlacementDay(sql, accountId);
  if (last === null) return [];
  const changedOn = await modifiersChanged(sql, accountId);
  const windows = new Map(
    conditions
      .filter(({ isOn }) => isOn)
      .map((condition) => daysOf(condition, last))
      .map((window) => [`${window.from}|${window.to}`, window]),
  );
  const sums = new Map<string, Awaited<ReturnType<typeof placementSumsOver>>>();
  for (const [key, window] of windows) sums.set(key, await placementSumsOver(sql, accountId, window));
  const campaigns = rows.map(({ campaignId, sku, placements }) => ({
    campaignId,
    sku,
    modifiers: Object.fromEntries(placements.map(({ placement, modifier }) => [placement, modifier])),
    changedOn: changedOn.get(campaignId) ?? null,
    sumsOf: ({ from, to }: Window) => sums.get(`${from}|${to}`)?.get(campaignId) ?? new Map(),
  }));
  const named = new Map(rows.map((row) => [row.campaignId, row]));
  return metBy(conditions, campaigns, last, today).map((met) => {
    const { name, sku, strategy } = named.get(met.campaignId)!;
    const condition = conditions[met.rank]!;
    return {
      ...met,
      name,
      sku,
      strategy,
      placement: condition.placement,
      // JSON knows no infinity.
      figure: Number.isFinite(met.figure) ? met.figure : null,
      ratio: Number.isFinite(met.ratio) ? met.ratio : null,
      sentence: sentenceOfMet(condition, met),
    };
  });
}

/** What conditions there are, and which campaigns they meet as days stand. */
export async function conditionsAnswer(accountId: number, window: Window): Promise<ConditionsAnswer> {
  const [conditions, rows, { placements, bids, budgets }] = await Promise.all([
    conditionRows(db(), accountId),
    placementRows(accountId, window),
    openBids(db(), accountId),
  ]);
  return {
    conditions,
    campaigns: rows.length,
    met: await metNow(accountId, conditions, rows),
    placements: [...new Set(rows.flatMap((row) => row.placements.map(({ placement }) => placement)))],
    maximumModifier: fieldLimitsOf(await getAccount(db(), accountId)).maximumModifier,
    onSheet: [...placements],
    bidsOnSheet: [...bids, ...budgets],
  };
}

/** Keeps a list of conditions in the place of the one before. */
export async function setConditions(accountId: number, conditions: readonly Condition[]): Promise<void> {
  const { maximumModifier } = fieldLimitsOf(await getAccount(db(), accountId));
  const skus = new Set((await productsOf(db(), accountId)).map(({ sku }) => sku));
  for (const [at, { name, cap, sku, placement, of, bids }] of conditions.entries()) {
    const refuse = (field: string, problem: string): never => {
      throw new ServiceError(422, 'bad_condition', `Condition ${at + 1}, “${name}”: ${problem}`, {
        field: `conditions[${at}].${field}`,
      });
    };
    if (cap > maximumModifier)
      refuse('cap', `a modifier lies between 0 % and ${maximumModifier} % here, not at ${cap} %.`);
    if (sku !== null && !skus.has(sku)) refuse('sku', `there is no product ${sku}.`);
    if (of === placement) refuse('of', `${placementName(placement)} cannot be held against itself.`);
    if (1 + bids <= 0) refuse('bids', 'bids cannot go down by all that they are.');
  }
  await db().begin((begun) => putConditions(begun as Transaction, accountId, conditions));
}

/** Puts what conditions make of some campaigns onto the open sheet, all or none. */
export async function acceptConditions(
  accountId: number,
  window: Window,
  campaignIds: readonly string[],
): Promise<Accepted> {
  const conditions = await conditionRows(db(), accountId);
  const rows = await placementRows(accountId, window);
  const met = new Map((await metNow(accountId, conditions, rows)).map((one) => [one.campaignId, one]));
  const wanted = campaignIds.map((campaignId) => {
    const one = met.get(campaignId);
    if (!one) {
      const message =
        'A campaign is not met any more: conditions or figures have changed. Load the page again.';
      throw new ServiceError(409, 'not_met', message, { field: campaignId });
    }
    if (one.waitsTo !== null)
      throw new ServiceError(422, 'waits', `${one.name} waits until ${one.waitsTo}.`, { field: campaignId });
    return one;
  });
  const streams = new Map(rows.map(({ campaignId, streams: own }) => [campaignId, own]));
  const drafts = await placementDraftsOf(
    accountId,
    window,
    wanted.map(({ campaignId, placement, to, beta }) => ({
      campaignId,
      modifiers: [{ placement, to }],
      bids: beta === 1 ? [] : streams.get(campaignId)!.map(({ name }) => ({ stream: name, beta })),
    })),
  );
  const lines = wanted.flatMap(({ campaignId, sentence }) =>
    drafts.get(campaignId)!.map((draft) => ({ ...draft, reason: sentence })),
  );
  if (lines.length === 0)
    throw new ServiceError(422, 'nothing_to_change', 'Modifiers and bids stand like that already.');
  return addDrafts(accountId, lines, 'own conditions');
}
