import { delimiterOf } from '../imports/files/plain.ts';
import type {
  NegativeListAnswer,
  NegativePlaceRow,
  NegativesAnswer,
  NegativesPreview,
} from '../../answers/terms.ts';
import { limitsOf } from '../account/limits.ts';
import { parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { negativeLine, type LineDraft } from '../../core/changes/lines.ts';
import { withComparison } from '../../core/explore/columns.ts';
import type { Window } from '../../core/metrics/days.ts';
import { count } from '../../core/metrics/format.ts';
import type { NegativeType } from '../../core/account/store.ts';
import {
  negativeKey,
  planNegatives,
  readNegative,
  type NegativePlace,
  type NegativePlan,
} from '../../core/terms/negative-plan.ts';
import { getAccount } from '../account/account.ts';
import { addDrafts, type Accepted } from '../changes/index.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { termsEngine } from '../engine/link.ts';
import { listParts, listRows, placeRows, putList, removeList, standingNegatives } from './queries.ts';

/** Negatives: what each keeps away, adding many at once, and lists under a name. */

export async function negativesOf(accountId: number, window: Window): Promise<NegativesAnswer> {
  const negatives = await termsEngine().negatives(await editionOf(accountId), withComparison(window));
  if (!negatives) throw noFigures();
  return { negatives, places: await placeRows(db(), accountId), lists: await listRows(db(), accountId) };
}

/** The terms that would flow again without a negative. */
export async function wouldFlow(accountId: number, window: Window, id: string) {
  const terms = await termsEngine().wouldFlow(await editionOf(accountId), withComparison(window), id);
  if (!terms) throw noFigures();
  return { terms };
}

/** Where negatives are to stand: ad groups, campaigns, all campaigns of a product, or those a list is attached to. */
export interface ScopeCall {
  scope: 'ad_group' | 'campaign' | 'product' | 'list' | 'account';
  /** Ids of ad groups, campaigns or a list, or a SKU; nothing for the account. */
  ids: string[];
}

const inScope = (rows: readonly NegativePlaceRow[], { scope, ids }: ScopeCall): NegativePlace[] => {
  const wanted = new Set(ids);
  if (scope === 'ad_group') {
    return rows
      .filter((row) => wanted.has(row.adGroupId))
      .map(({ campaignId, adGroupId, adGroup }) => ({ campaignId, adGroupId, name: adGroup }));
  }
  const matches = (row: NegativePlaceRow) =>
    scope === 'account' || wanted.has(scope === 'campaign' ? row.campaignId : (row.sku ?? ''));
  const campaigns = new Map(rows.filter(matches).map((row) => [row.campaignId, row.campaign]));
  return [...campaigns].map(([campaignId, name]) => ({ campaignId, adGroupId: null, name }));
};

async function planIn(
  accountId: number,
  texts: readonly string[],
  matchType: NegativeType,
  places: readonly NegativePlace[],
): Promise<NegativePlan> {
  const account = await getAccount(db(), accountId);
  const { characters, words, pattern, itemCode } = limitsOf(account);
  const negatives = Number(account.limits.negatives_per_ad_group ?? 1000);
  const known = new Map<string, { keys: Set<string>; count: number }>();
  const keyOf = (one: { campaignId: string; adGroupId: string | null }) =>
    one.adGroupId ?? `c${one.campaignId}`;
  const campaigns = [...new Set(places.map(({ campaignId }) => campaignId))];
  for (const one of await standingNegatives(db(), accountId, campaigns)) {
    const place = known.get(keyOf(one)) ?? { keys: new Set<string>(), count: 0 };
    place.keys.add(negativeKey(one.matchType, one.expression));
    place.count++;
    known.set(keyOf(one), place);
  }
  const nothing = { keys: new Set<string>(), count: 0 };
  const limits = { characters, words, pattern, itemCode, negatives };
  return planNegatives(texts, matchType, places, (place) => known.get(keyOf(place)) ?? nothing, limits);
}

const draftsOf = ({ planned }: NegativePlan, reason: string): LineDraft[] =>
  planned.map(({ place, ...negative }) => negativeLine(place, negative, { reason }));

export interface NegativesCall extends ScopeCall {
  texts: string[];
  matchType: NegativeType;
}

async function planned(
  accountId: number,
  call: NegativesCall,
): Promise<{ plan: NegativePlan; places: number }> {
  const rows = await placeRows(db(), accountId);
  if (call.scope === 'list') {
    const { campaignIds } = await listOf(accountId, Number(call.ids[0]));
    const places = inScope(rows, { scope: 'campaign', ids: campaignIds });
    return { plan: await planIn(accountId, call.texts, call.matchType, places), places: places.length };
  }
  const places = inScope(rows, call);
  if (places.length === 0) {
    throw new ServiceError(422, 'nowhere', 'Choose where the negatives are to stand.', { field: 'ids' });
  }
  return { plan: await planIn(accountId, call.texts, call.matchType, places), places: places.length };
}

/** What adding these would put onto the sheet, and what is wrong with which line. */
export async function previewNegatives(accountId: number, call: NegativesCall): Promise<NegativesPreview> {
  const { plan, places } = await planned(accountId, call);
  const { problems, repeated, standing } = plan;
  return { lines: plan.planned.length, places, problems, repeated, standing };
}

/** Puts negatives onto the sheet, as one group that one undo takes back. */
export async function addNegatives(accountId: number, call: NegativesCall): Promise<Accepted> {
  if (call.scope === 'list') return addToList(accountId, call);
  const { plan } = await planned(accountId, call);
  if (plan.planned.length === 0) {
    const first = plan.problems[0];
    const message = first
      ? `None of these can be added. Line ${first.line}, “${first.text}”: ${first.message}`
      : 'All of these stand there already.';
    throw new ServiceError(422, 'nothing_to_add', message, { field: 'texts' });
  }
  return addDrafts(accountId, draftsOf(plan, 'Added as a negative by hand.'), 'by hand');
}

/** Adds to a list what can be a negative, and what is missing in its campaigns then to the sheet. */
async function addToList(accountId: number, { texts, matchType, ids }: NegativesCall): Promise<Accepted> {
  const list = await listOf(accountId, Number(ids[0]));
  // Planned in no place at all: what is left is what can be a negative.
  const anywhere: NegativePlace = { campaignId: '', adGroupId: null, name: list.name };
  const known = new Set(list.entries.map((entry) => negativeKey(entry.matchType, entry.expression)));
  const { characters, words, pattern, itemCode } = limitsOf(await getAccount(db(), accountId));
  const limits = { characters, words, pattern, itemCode, negatives: 0 };
  const plan = planNegatives(texts, matchType, [anywhere], () => ({ keys: known, count: 0 }), limits);
  const entries = [...list.entries, ...plan.planned];
  await saveList(accountId, list.id, { name: list.name, entries, campaignIds: list.campaignIds });
  const missing = await planList(accountId, { entries, campaignIds: list.campaignIds });
  if (missing.planned.length === 0) return { groups: [], lines: 0 };
  return addDrafts(accountId, draftsOf(missing, `From the list “${list.name}”.`), 'by hand');
}

export interface NegativeList {
  name: string;
  entries: { matchType: NegativeType; expression: string }[];
  campaignIds: string[];
}

/** A list with how many of its negatives are missing in its campaigns. */
export async function listOf(accountId: number, listId: number): Promise<NegativeListAnswer> {
  const row = (await listRows(db(), accountId)).find(({ id }) => id === listId);
  if (!row) throw notFound(`list ${listId}`);
  const parts = await listParts(db(), accountId, listId);
  const plan = await planList(accountId, parts);
  return { ...parts, id: row.id, name: row.name, missing: plan.planned.length, standing: plan.standing };
}

async function planList(
  accountId: number,
  { entries, campaignIds }: Omit<NegativeList, 'name'>,
): Promise<NegativePlan> {
  const places = inScope(await placeRows(db(), accountId), { scope: 'campaign', ids: campaignIds });
  const whole: NegativePlan = { planned: [], problems: [], repeated: 0, standing: 0 };
  for (const matchType of ['negative_exact', 'negative_phrase', 'negative_item'] as const) {
    const texts = entries
      .filter((entry) => entry.matchType === matchType)
      .map(({ expression }) => expression);
    const plan = await planIn(accountId, texts, matchType, places);
    whole.planned.push(...plan.planned);
    whole.standing += plan.standing;
  }
  return whole;
}

/** Saves a list: its name, its negatives, the campaigns it is attached to. All or nothing. */
export async function saveList(
  accountId: number,
  listId: number | null,
  list: NegativeList,
): Promise<{ id: number }> {
  const account = await getAccount(db(), accountId);
  const limits = limitsOf(account);
  const itemCode = new RegExp(limits.itemCode, 'iu');
  const entries = list.entries.map(({ matchType, expression }) => {
    const read = readNegative(expression.trim(), matchType, itemCode);
    return { matchType: read.matchType, expression: read.text };
  });
  for (const [at, { matchType, expression }] of entries.entries()) {
    const { problems } = planNegatives([expression], matchType, [], () => ({ keys: new Set(), count: 0 }), {
      ...limits,
      negatives: 1,
    });
    const [problem] = problems;
    if (problem || expression === '') {
      const message = `Line ${at + 1}, “${problem?.text ?? ''}”: ${problem?.message ?? 'It is empty.'}`;
      throw new ServiceError(422, 'no_negative', message, { field: `entries.${at}` });
    }
  }
  const known = new Set((await placeRows(db(), accountId)).map(({ campaignId }) => campaignId));
  const unknown = list.campaignIds.find((id) => !known.has(id));
  if (unknown !== undefined) throw notFound(`campaign ${unknown}`);
  const id = await db().begin((tx) => putList(tx as Transaction, accountId, listId, { ...list, entries }));
  if (id === null) {
    const message = `There is another list “${list.name}”, or this one is gone.`;
    throw new ServiceError(409, 'list_name', message, { field: 'name' });
  }
  return { id };
}

/** Takes a list away; the negatives it put into campaigns stay where they are. */
export async function dropList(accountId: number, listId: number): Promise<void> {
  const gone = await db().begin((tx) => removeList(tx as Transaction, accountId, listId));
  if (!gone) throw notFound(`list ${listId}`);
}

/** Puts what is missing of a list in its campaigns onto the sheet. */
export async function applyList(accountId: number, listId: number): Promise<Accepted> {
  const list = await listOf(accountId, listId);
  const plan = await planList(accountId, list);
  if (list.campaignIds.length === 0)
    throw new ServiceError(422, 'no_campaigns', 'Attach the list to campaigns first.', {
      field: 'campaignIds',
    });
  if (plan.planned.length === 0)
    throw new ServiceError(422, 'nothing_missing', 'All of the list stands in its campaigns already.');
  const reason = `From the list “${list.name}”, ${count(list.entries.length)} negatives.`;
  return addDrafts(accountId, draftsOf(plan, reason), 'by hand');
}

const listColumns = ['match_type', 'expression'];

export const listCsv = (entries: readonly { matchType: string; expression: string }[]): string =>
  stringify(
    entries.map(({ matchType, expression }) => ({ match_type: matchType, expression })),
    { header: true, columns: listColumns, escape_formulas: true },
  );

/** Negatives out of a text: CSV with a head, or one text a line; types default to phrase. */
export function readNegativesText(text: string): { matchType: NegativeType; expression: string }[] {
  const head = text.slice(0, 200).toLowerCase();
  if (!/^\uFEFF?"?(match_type|expression)/.test(head)) {
    return text
      .split(/\r?\n/)
      .map((line) => line.trim())
      .filter((line) => line !== '')
      .map((expression) => ({ matchType: 'negative_phrase', expression }));
  }
  const rows = parse(text, {
    bom: true,
    columns: (names: string[]) => names.map((name) => name.trim().toLowerCase()),
    skip_empty_lines: true,
    trim: true,
    delimiter: delimiterOf(text),
    relax_column_count: true,
  }) as Record<string, string>[];
  return rows.map(({ match_type: type = '', expression = '' }, at) => {
    const name = type === '' ? 'negative_phrase' : type.replace(/^(?!negative_)/, 'negative_');
    if (!['negative_exact', 'negative_phrase', 'negative_item'].includes(name)) {
      throw new ServiceError(422, 'bad_type', `Row ${at + 2}: “${type}” is no type of a negative.`, {
        field: 'match_type',
      });
    }
    return { matchType: name as NegativeType, expression: expression.replace(/^'(?=[=+\-@])/, '') };
  });
}
