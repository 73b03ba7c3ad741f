import type { MethodsAnswer, WhatIfAnswer } from '../../answers/goals.ts';
import type { Window } from '../../core/metrics/days.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { judging } from '../engine/link.ts';
import { db } from '../db/connection.ts';
import { changedGoal, type GoalCall } from '../goals/goals.ts';
import { goalRows } from '../goals/queries.ts';

/** What other goals, and other methods, would make of the account. Nothing is kept. */

export type WhatIfCall = GoalCall;

/** The account under its goals, and with one of them moved. */
export async function whatIfOf(accountId: number, window: Window, call: WhatIfCall): Promise<WhatIfAnswer> {
  const rows = await goalRows(db(), accountId);
  const moved = changedGoal(
    rows.find(({ scope, key }) => scope === call.scope && key === call.key),
    call,
  );
  const answer = await judging().whatIf(await editionOf(accountId), window, moved);
  if (!answer) throw noFigures();
  return answer;
}

export interface MethodsOrder {
  offset: number;
  limit: number;
  sort: 'between' | 'spend';
  text: string;
}

/** Proposals of all methods for all targets, a page of them, as JSON. */
export async function methodsOf(
  accountId: number,
  window: Window,
  order: MethodsOrder,
): Promise<MethodsAnswer> {
  const answer = await judging().methods(await editionOf(accountId), window, order);
  if (!answer) throw noFigures();
  return JSON.parse(answer) as MethodsAnswer;
}
