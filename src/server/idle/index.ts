import Joi from 'joi';
import { idleSpans, type IdleAnswer, type IdleSpan } from '../../answers/idle.ts';
import { getAccount, settling } from '../account/account.ts';
import { db } from '../db/connection.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { idleOf } from '../engine/link.ts';
import { toleranceRows } from './queries.ts';

/** What costs and sells nothing, and losses that are borne on purpose. */

export { borneLosses, setTolerances, tolerancesOf } from './tolerances.ts';
export { tolerancesSchema } from './door.ts';

export interface IdleOrder {
  level: 'targets' | 'terms';
  span: IdleSpan;
  text: string;
  offset: number;
  limit: number;
}

export const idleSchema = Joi.object<IdleOrder>({
  level: Joi.string().valid('targets', 'terms').default('targets'),
  span: Joi.alternatives(Joi.string().valid('change'), Joi.number().valid(...idleSpans)).default(30),
  text: Joi.string().allow('').max(200).default(''),
  offset: Joi.number().integer().min(0).default(0),
  limit: Joi.number().integer().min(1).max(50_000).default(200),
}).unknown(true);

/** What was clicked and sold nothing, those that cost most first. */
export async function withoutOrders(
  accountId: number,
  { level, span, ...page }: IdleOrder,
): Promise<IdleAnswer> {
  const { curve } = await settling(db(), await getAccount(db(), accountId));
  const answer = await idleOf().list(await editionOf(accountId), level, span, curve, page);
  if (!answer) throw noFigures();
  const tolerated = new Set((await toleranceRows(db(), accountId)).map((row) => row.finding_key));
  return {
    ...answer,
    rows: answer.rows.map((row) => ({ ...row, isTolerated: tolerated.has(row.findingKey) })),
  };
}
