import { limitsOf } from '../account/limits.ts';
import { modifiersOf } from '../facts/season.queries.ts';
import { addDays, daysBetween } from '../../core/metrics/days.ts';
import { learnResponses, type Model } from '../../core/effect/model.ts';
import { usualValueWeight } from '../../core/evidence/value.ts';
import { untouchedApart } from '../../core/effect/substitution.ts';
import { accountById, touchGoals } from '../account/queries.ts';
import type { Database, Transaction } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { log } from '../log.ts';
import { editionOf } from '../engine/edition.ts';
import { judging } from '../engine/link.ts';
import { scoreForecasts } from '../forecasts/forecasts.ts';
import { bidChanges, keepModel, keepStock, keepWordEffects, newestModel } from '../account/model.queries.ts';

/** The account learns about itself once a week, and anew when more of the same day comes in. */
const everyDays = 7;
/** How far back bid changes tell of the present market. */
const changeDays = 180;
/** Days whose clicks tell what placements make of a bid. */
const modifierDays = 30;

/**
 * What an account teaches: how bids move clicks and CPC, how far rows drift, what words tell, and how the model did
 * out of sample.
 */
export async function learnModel(sql: Database, accountId: number): Promise<void> {
  const account = await accountById(sql, accountId);
  if (!account?.today) return;
  const { today } = account;
  const newest = await newestModel(sql, accountId);
  const age = newest ? daysBetween(newest.day, today) : everyDays;
  if (age > 0 && age < everyDays) return;
  const modifiers = new Map(
    (await modifiersOf(sql, accountId, { from: addDays(today, -modifierDays), to: today })).map((row) => [
      String(row.campaign_id),
      row.modifier,
    ]),
  );
  const { changes, movesOn } = await bidChanges(sql, accountId, addDays(today, -changeDays), today);
  const learned = await judging().learn(await editionOf(accountId), limitsOf(account).itemCode);
  const overlap = learned?.overlap ?? { overlap: 0, products: {} };
  const responses = learnResponses(
    changes.map((change) => ({
      ...change,
      paid: change.paid === null ? null : change.paid / (modifiers.get(change.campaignId) ?? 1),
      untouched: untouchedApart(movesOn(change.day) ?? [], overlap),
    })),
    overlap,
  );
  const model: Model = {
    ...responses,
    drift: learned?.drift ?? 0,
    valueWeight: learned?.valueWeight ?? usualValueWeight,
    check: learned?.check ?? null,
    words: learned?.words ?? null,
  };
  await sql.begin(async (begun) => {
    const tx = begun as Transaction;
    await keepModel(tx, accountId, today, model);
    await keepWordEffects(tx, accountId, learned?.effects ?? []);
    await touchGoals(tx, accountId);
  });
}

/** A round of steering, where the account is kept in memory. */
export async function steerAccount(sql: Database, accountId: number): Promise<void> {
  const account = await accountById(sql, accountId);
  if (account) await judging().steer(accountId, String(account.data_version));
}

/**
 * What follows when figures came in, in this order: forecasts are scored, the account is learned, thetas steered. The
 * figures themselves have been loaded by then, and whoever hears of an error hears that too.
 */
export async function afterFigures(sql: Database, accountId: number): Promise<void> {
  const account = await accountById(sql, accountId);
  if (!account?.today) return;
  try {
    await keepStock(sql, accountId, account.today);
    await scoreForecasts(sql, accountId);
    await learnModel(sql, accountId);
    await steerAccount(sql, accountId);
  } catch (error) {
    log.error({ error, accountId }, 'learning after figures failed');
    const message =
      'The figures are loaded. Learning from them failed: forecasts, responses and θ stay as they were until figures come in again.';
    throw new ServiceError(500, 'learning_failed', message);
  }
}
