import { ServiceError } from '../errors.ts';
import { db } from '../db/connection.ts';
import { getAccount, settling } from './account.ts';
import { type Window, type Day, windowProblem, windowEnding } from '../../core/metrics/days.ts';

/** The part of a window that is settled; null when nothing of it is. */
export function settledWindow(window: Window, settledTo: Day | null): Window | null {
  if (settledTo === null || settledTo < window.from) return null;
  return { from: window.from, to: window.to < settledTo ? window.to : settledTo };
}

/** The window that a view asks for; by default the 30 days up to the last settled one. */
export async function windowOf(accountId: number, from: string | null, to: string | null): Promise<Window> {
  const account = await getAccount(db(), accountId);
  if (account.today === null) {
    throw new ServiceError(
      409,
      'no_figures',
      'There are no figures yet. Fetch from the marketplace or load a file.',
    );
  }
  if (from !== null && to !== null) {
    const wrong = windowProblem({ from, to });
    if (wrong) throw new ServiceError(422, 'bad_window', wrong, { field: 'from' });
    return { from, to };
  }
  const { settledTo } = await settling(db(), account);
  return windowEnding(settledTo ?? account.today, 30);
}
