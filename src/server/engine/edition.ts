import { modelOf } from '../account/model.queries.ts';
import { goalRows, thetaRows } from '../goals/queries.ts';
import { setGoalsOf } from '../goals/set-goals.ts';
import type { TableModel } from '../../core/effect/model.ts';
import { usualPaidPerBid } from '../../core/evidence/present-cpc.ts';
import type { SetGoal } from '../../core/goals/goals.ts';
import { getAccount } from '../account/account.ts';
import { db } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';

/** Which state of the account is meant: figures and goals change, and what was made for the old is forgotten. */
export interface Edition {
  accountId: number;
  /** Grows with the figures alone. */
  figures: string;
  version: string;
  goals: SetGoal[];
  model: Omit<TableModel, 'words'>;
}

export async function editionOf(accountId: number): Promise<Edition> {
  const account = await getAccount(db(), accountId);
  const rows = await goalRows(db(), accountId);
  const usual = rows.find(({ scope }) => scope === 'account')?.target_acos;
  // Before the first round of steering: as if a click cost what it usually costs per bid.
  const goals = setGoalsOf(rows, await thetaRows(db(), accountId), ({ target_acos }) => {
    const target = target_acos ?? usual!;
    return { theta: target / usualPaidPerBid, target_acos: target };
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
