import type { NegativeType } from '../account/store.ts';
import { whyNoKeyword, type KeywordLimits } from './match.ts';
import { pluralForm, wordsOf } from '../text/normalise.ts';

/** A negative that somebody wants, as a text and its type. */
export interface WantedNegative {
  text: string;
  matchType: NegativeType;
}

/** A place where negatives stand: an ad group or, without one, a whole campaign. */
export interface NegativePlace {
  campaignId: string;
  adGroupId: string | null;
  name: string;
}

export interface NegativeProblem {
  /** The line of what was pasted, from 1. */
  line: number;
  text: string;
  message: string;
}

export interface PlannedNegative {
  place: NegativePlace;
  matchType: NegativeType;
  expression: string;
}

export interface NegativePlan {
  planned: PlannedNegative[];
  problems: NegativeProblem[];
  /** Repeats of one text, and those that stand in a place already: nothing is left to do for them. */
  repeated: number;
  standing: number;
}

/** Two negatives of one key block the same. */
export const negativeKey = (matchType: NegativeType, text: string): string =>
  `${matchType}\t${matchType === 'negative_exact' ? pluralForm(text) : wordsOf(text).join(' ')}`;

/** Reads a line as it was pasted: an item code is one in whatever case it comes. */
export const readNegative = (text: string, matchType: NegativeType, itemCode: RegExp): WantedNegative =>
  itemCode.test(text) ? { text: text.toUpperCase(), matchType: 'negative_item' } : { text, matchType };

/**
 * Plans negatives in some places: what cannot be one says why and where, what stands already is left out, and no place
 * gets more than the marketplace allows.
 */
export function planNegatives(
  texts: readonly string[],
  matchType: NegativeType,
  places: readonly NegativePlace[],
  standing: (place: NegativePlace) => { keys: ReadonlySet<string>; count: number },
  limits: KeywordLimits & { itemCode: string; negatives: number },
): NegativePlan {
  const itemCode = new RegExp(limits.itemCode, 'iu');
  const plan: NegativePlan = { planned: [], problems: [], repeated: 0, standing: 0 };
  const wanted: { negative: WantedNegative; key: string; line: number }[] = [];
  const seen = new Set<string>();
  texts.forEach((line, at) => {
    const text = line.trim();
    if (text === '') return;
    const negative = readNegative(text, matchType, itemCode);
    const problem = negative.matchType === 'negative_item' ? null : whyNoKeyword(negative.text, limits);
    if (problem) return void plan.problems.push({ line: at + 1, text: shortened(text), message: problem });
    const key = negativeKey(negative.matchType, negative.text);
    if (seen.has(key)) return void plan.repeated++;
    seen.add(key);
    wanted.push({ negative, key, line: at + 1 });
  });
  const full = new Map<string, number>();
  for (const place of places) {
    const { keys, count } = standing(place);
    let room = limits.negatives - count;
    for (const { negative, key } of wanted) {
      if (keys.has(key)) {
        plan.standing++;
        continue;
      }
      if (place.adGroupId !== null && room <= 0) {
        full.set(place.name, (full.get(place.name) ?? 0) + 1);
        continue;
      }
      room--;
      plan.planned.push({ place, matchType: negative.matchType, expression: negative.text });
    }
  }
  for (const [name, left] of full) {
    plan.problems.push({
      line: 0,
      text: name,
      message: `It holds at most ${limits.negatives} negatives: ${left} find no room. Put them into its campaign instead.`,
    });
  }
  return plan;
}

const shortened = (text: string): string => (text.length > 80 ? `${text.slice(0, 79)}…` : text);
