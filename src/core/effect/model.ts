import {
  learnAccountResponse,
  learnResponse,
  responseOf,
  type BidChange,
  type ResponseBelief,
} from './learn-response.ts';
import { usualResponse, type Response } from './response.ts';
import { noSubstitution, overlapOf, type Substitution } from './substitution.ts';
import { usualValueWeight } from '../evidence/value.ts';
import type { Check } from '../evidence/check.ts';

/** What an account taught about itself, beside its figures: kept by day, and used by every judgement until the next. */
export interface Model {
  response: Response;
  /** Of campaigns with enough bid changes of their own, by id. */
  responses: Record<string, Response>;
  /** How targets of one product take clicks from each other. */
  substitution: Substitution;
  /** Bid changes behind the response. */
  changes: number;
  drift: number;
  valueWeight: number;
  /** Grades of the targets out of sample; null while there is too little. */
  check: Check | null;
  /** The same of the search terms, with and without what their words tell. */
  words: { used: boolean; score: number; plainScore: number; count: number } | null;
}

export const emptyModel: Model = {
  response: usualResponse,
  responses: {},
  substitution: noSubstitution,
  changes: 0,
  drift: 0,
  valueWeight: usualValueWeight,
  check: null,
  words: null,
};

/** Fewer changes of its own, and a campaign answers like what is above it. */
const leastOwnChanges = 12;

/**
 * The responses of an account, its products and campaigns, each shrunk to the one above (domain, section 11).
 * @param overlap How far targets of one product answer the same terms (`overlaps`).
 */
export function learnResponses(
  changes: readonly (Omit<BidChange, 'overlap'> & { campaignId: string; sku: string | null })[],
  overlap: Pick<Substitution, 'overlap' | 'products'>,
): Pick<Model, 'response' | 'responses' | 'substitution' | 'changes'> {
  const known = { ...noSubstitution, ...overlap };
  const told = changes.map((change) => ({ ...change, overlap: overlapOf(known, change.sku) }));
  const account = learnAccountResponse(told, overlap.overlap);
  const products = new Map<string | null, ResponseBelief>();
  const responses: Record<string, Response> = {};
  for (const [sku, own] of group(told, ({ sku }) => sku)) products.set(sku, learnResponse(own, account));
  for (const [campaignId, own] of group(told, ({ campaignId }) => campaignId)) {
    if (own.length < leastOwnChanges) continue;
    responses[campaignId] = responseOf(learnResponse(own, products.get(own[0]!.sku)!));
  }
  return {
    response: responseOf(account),
    responses,
    substitution: { ...overlap, share: account.share.mean },
    changes: changes.length,
  };
}

function group<T, K>(rows: readonly T[], keyOf: (row: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const row of rows) {
    const key = keyOf(row);
    const known = groups.get(key);
    if (known) known.push(row);
    else groups.set(key, [row]);
  }
  return groups;
}

export interface TableModel extends Pick<Model, 'response' | 'responses' | 'drift' | 'valueWeight'> {
  /** What words tell of terms: natural logs, by word. */
  words: ReadonlyMap<string, number>;
}
