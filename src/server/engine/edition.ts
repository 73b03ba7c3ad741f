import { modelOf } from '../account/model.queries.ts';
import { goalRows, thetaRows } from '../goals/queries.ts';
import type { TableModel } from '../../core/effect/model.ts';
import { usualPaidPerBid } from '../../core/evidence/present-cpc.ts';
import type { Goal } from '../../core/goals/goals.ts';
import { startTheta, thetaAt } from '../../core/goals/theta.ts';
import { getAccount } from '../account/account.ts';
import { db } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';

/** Which state of the account is meant: figures and goals change, and what was made for the old is forgotten. */
export interface Edition {
  accountId: number;
  /** Grows with the figures alone. */
  figures: string;
  version: string;
  goals: Goal[];
  model: Omit<TableModel, 'words'>;
}

export async function editionOf(accountId: number): Promise<Edition> {
  const account = await getAccount(db(), accountId);
  const thetas = new Map((await thetaRows(db(), accountId)).map((row) => [`${row.scope}:${row.key}`, row]));
  const goals = (await goalRows(db(), accountId)).map((row): Goal => {
    const known = thetas.get(`${row.scope}:${row.key}`);
    return {
      scope: row.scope,
      key: row.key,
      targetAcos: row.target_acos,
      // Before the first round of steering: as if a click cost what it usually costs per bid.
      theta: known
        ? thetaAt(known, row.target_acos, row.above_one).theta
        : startTheta(row.target_acos, usualPaidPerBid, row.above_one),
      bidFloor: row.bid_floor,
      bidCeiling: row.bid_ceiling,
      stance: row.stance,
    };
  });
  const { response, responses, drift, valueWeight } = await modelOf(db(), accountId);
  return {
    accountId,
    figures: String(account.data_version),
    version: `${account.data_version}|${account.goals_version}`,
    goals,
    model: { response, responses, drift, valueWeight },
  };
}

export const noFigures = () =>
  new ServiceError(409, 'no_figures', 'There are no figures yet. Fetch from the marketplace or load a file.');
