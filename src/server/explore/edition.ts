import type { Goal } from '../../core/round/types.ts';
import { getAccount } from '../account/index.ts';
import { db } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { goalRows } from '../round/queries.ts';

/** Which state of the account is meant: figures and goals change, and what was made for the old is forgotten. */
export interface Edition {
  accountId: number;
  version: string;
  goals: Goal[];
}

export async function editionOf(accountId: number): Promise<Edition> {
  const account = await getAccount(db(), accountId);
  const goals = (await goalRows(db(), accountId)).map((row): Goal => ({
    scope: row.scope,
    key: row.key,
    targetAcos: row.target_acos,
    theta: row.target_acos,
    bidFloor: row.bid_floor,
    bidCeiling: row.bid_ceiling,
  }));
  return { accountId, version: `${account.data_version}|${account.goals_version}`, goals };
}

export const noFigures = () =>
  new ServiceError(409, 'no_figures', 'There are no figures yet. Fetch from the marketplace or load a file.');
