import { wordKey } from '../../core/round/queue.ts';
import { limitsOf } from '../account/limits.ts';
import { negativeLine, type LineDraft } from '../../core/changes/lines.ts';
import type { Collateral } from '../../answers/terms.ts';
import { withComparison } from '../../core/explore/columns.ts';
import { windowDays, type Window } from '../../core/metrics/days.ts';
import { phraseEffect } from '../../core/effect/weekly.ts';
import type { Effect } from '../../core/effect/types.ts';
import { sentenceOfWords } from '../../core/terms/words.ts';
import { normalise } from '../../core/text/normalise.ts';
import { whyNoKeyword } from '../../core/terms/match.ts';
import { getAccount, marginOf } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { addDrafts, type Accepted } from '../changes/index.ts';
import { db } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { termsEngine } from '../engine/link.ts';
import type { WordsOrder } from '../engine/words.ts';
import { campaignsOfProduct, relevantWords, setRelevant } from './queries.ts';

/** Words: sums of sequences, what a negative phrase would cost, and putting one onto the sheet. */

export type WordsCall = Omit<WordsOrder, 'itemCode' | 'relevant'>;

const itemCodeOf = async (accountId: number): Promise<string> =>
  limitsOf(await getAccount(db(), accountId)).itemCode;

export async function wordsOf(accountId: number, window: Window, call: WordsCall) {
  const order = {
    ...call,
    itemCode: await itemCodeOf(accountId),
    relevant: await relevantWords(db(), accountId),
  };
  const answer = await termsEngine().wordTable(await editionOf(accountId), withComparison(window), order);
  if (!answer) throw noFigures();
  return answer;
}

/** How far the sums are that somebody waits for. */
export const termsProgress = async () => (await termsEngine().progress()) ?? { doing: '', done: 0, of: 0 };

export async function collateralOf(
  accountId: number,
  window: Window,
  sku: string | null,
  words: string,
): Promise<Collateral> {
  const answer = await termsEngine().collateral(
    await editionOf(accountId),
    withComparison(window),
    sku,
    normalise(words),
    await itemCodeOf(accountId),
  );
  if (!answer) throw noFigures();
  return answer;
}

/** Marks sequences as belonging to what is sold, or takes the mark away. */
export const markRelevant = (accountId: number, words: string[], relevant: boolean): Promise<void> =>
  setRelevant(db(), accountId, words.map(normalise), relevant);

/** Where a negative phrase may stand: the ad groups or campaigns that caught it, or every campaign of the product. */
export type WordScope = 'ad_group' | 'campaign' | 'product';

/** Puts negative phrases onto the sheet, one group a sequence, so that each is taken back by itself. */
export async function negateWords(
  accountId: number,
  window: Window,
  sku: string | null,
  sequences: string[],
  scope: WordScope,
): Promise<Accepted> {
  const made: Accepted = { groups: [], lines: 0 };
  const planned: { words: string; drafts: LineDraft[] }[] = [];
  for (const words of sequences.map(normalise))
    planned.push({ words, drafts: await phraseDrafts(accountId, window, sku, words, scope) });
  for (const { words, drafts } of planned) {
    const { groups, lines } = await addDrafts(accountId, drafts, 'Mowing', wordKey(sku, words));
    made.groups.push(...groups);
    made.lines += lines;
  }
  return made;
}

/** The lines that put a negative phrase where a scope says. */
export async function phraseDrafts(
  accountId: number,
  window: Window,
  sku: string | null,
  words: string,
  scope: WordScope,
): Promise<LineDraft[]> {
  const limits = limitsOf(await getAccount(db(), accountId));
  const problem = whyNoKeyword(words, limits);
  if (problem) throw new ServiceError(422, 'no_negative', `“${words}”: ${problem}`, { field: 'words' });
  const collateral = await collateralOf(accountId, window, sku, words);
  const drafts = await draftsOf(accountId, collateral, windowDays(window), sku, scope);
  if (drafts.length > 0) return drafts;
  const message = `“${words}”: nothing that runs has caught it, so there is nowhere to put a negative.`;
  throw new ServiceError(422, 'nowhere', message, { field: 'words' });
}

async function draftsOf(
  accountId: number,
  collateral: Collateral,
  days: number,
  sku: string | null,
  scope: WordScope,
): Promise<LineDraft[]> {
  const { words, places, spend } = collateral;
  const reason = sentenceOfWords(collateral);
  const product = (await productsOf(db(), accountId)).find((one) => one.sku === sku);
  const margin = product ? marginOf(product) : null;
  const campaigns = new Set(places.map(({ campaignId }) => campaignId));
  if (scope === 'product') {
    const { today } = await getAccount(db(), accountId);
    for (const id of await campaignsOfProduct(db(), accountId, sku, [...campaigns], today)) campaigns.add(id);
  }
  const ends =
    scope === 'ad_group'
      ? places.map(({ adGroupId, campaignId }) => ({ adGroupId, campaignId }))
      : [...campaigns].map((campaignId) => ({ adGroupId: null, campaignId }));
  const effectOf = ({ adGroupId, campaignId }: (typeof ends)[number]): Effect | null => {
    const caught = places.filter((place) =>
      adGroupId === null ? place.campaignId === campaignId : place.adGroupId === adGroupId,
    );
    const share = spend > 0 ? caught.reduce((sum, place) => sum + place.spend, 0) / spend : 0;
    const claims = caught.flatMap((place) => place.claims);
    return share > 0 ? { ...phraseEffect(collateral, days, share, margin), claims } : null;
  };
  const negative = { matchType: 'negative_phrase', expression: words } as const;
  return ends.map((end) => negativeLine(end, negative, { reason, effect: effectOf(end) }));
}
