import type { NegativeType } from '../account/store.ts';
import type { Micros } from '../metrics/money.ts';
import { normalise, wordsOf } from '../text/normalise.ts';
import type { Part, PartKind, Recipe } from './recipe.ts';

/** A target of the account that a kit finds in its place. */
export interface RunningTarget {
  targetId: string;
  kind: 'automatic' | 'keyword' | 'item' | 'category';
  matchType: string | null;
  expression: string;
  /** Micros; null where it takes its ad group's. */
  bid: Micros | null;
  status: string;
  /** Of 90 days. */
  clicks: number;
  orders: number;
}

/** An ad group of a product that is not archived, with what stands in it. */
export interface RunningAdGroup {
  campaignId: string;
  adGroupId: string;
  campaign: string;
  name: string;
  /** Enabled only where its campaign is too. */
  status: string;
  /** Micros; null where its budget is of another kind. */
  dailyBudget: Micros | null;
  targets: readonly RunningTarget[];
  /** Those of its campaign too. */
  negatives: readonly { matchType: NegativeType; expression: string }[];
}

/** The kind of part whose target this is; null for a keyword without a match type. */
export function partKindOf({ kind, matchType }: Pick<RunningTarget, 'kind' | 'matchType'>): PartKind | null {
  if (kind === 'item') return 'items';
  if (kind !== 'keyword') return kind;
  return matchType === 'broad' || matchType === 'phrase' || matchType === 'exact' ? matchType : null;
}

/** From which likeness on an ad group is taken for a part. */
const leastLike = 0.6;

/** How much an ad group is like a part, 0 to 1.4: what it aims with, then how it is called. */
function likeness(
  part: Part,
  { campaign, name, targets }: RunningAdGroup,
  { ownPages, best }: { ownPages: ReadonlySet<string>; best: string | null },
): number {
  const called = new Set(wordsOf(`${campaign} ${name}`));
  const words = wordsOf(part.name);
  const named = words.length > 0 && words.every((word) => called.has(word)) ? 1 : 0;
  // Made and left empty: its name is all that tells.
  if (targets.length === 0) return 0.6 * named + (called.has(part.kind) ? 0.1 : 0);
  const alike = targets.filter((target) => partKindOf(target) === part.kind);
  let share = alike.length / targets.length;
  if (part.kind === 'automatic' && share > 0) {
    const modes = new Set(alike.map(({ expression }) => expression));
    const both = part.modes.filter((mode) => modes.has(mode)).length;
    share *= both / new Set([...part.modes, ...modes]).size;
  }
  if (part.kind === 'items' && share > 0) {
    const own =
      alike.filter(({ expression }) => ownPages.has(expression.toUpperCase())).length / alike.length;
    share *= part.source === 'own_pages' ? own : 1 - own;
  }
  if (part.source === 'best' && share > 0)
    share *= alike.length === 1 && normalise(alike[0]!.expression) === normalise(best ?? '') ? 1 : 0;
  return share + 0.4 * named * (share > 0 ? 1 : 0);
}

/**
 * Which ad groups of a product are parts of a recipe already, by the part's name: what they aim with decides, then how
 * they are called. Each is one part at most; parts of which none is are left out.
 */
export function recognise(
  recipe: Recipe,
  adGroups: readonly RunningAdGroup[],
  about: { ownPages: ReadonlySet<string>; best: string | null },
): Map<string, RunningAdGroup> {
  const pairs = recipe.parts
    .flatMap((part) => adGroups.map((adGroup) => ({ part, adGroup, like: likeness(part, adGroup, about) })))
    .filter(({ like }) => like >= leastLike)
    .sort(
      (a, b) =>
        b.like - a.like ||
        b.adGroup.targets.length - a.adGroup.targets.length ||
        (a.adGroup.adGroupId < b.adGroup.adGroupId ? -1 : 1),
    );
  const found = new Map<string, RunningAdGroup>();
  const used = new Set<string>();
  for (const { part, adGroup } of pairs) {
    if (found.has(part.name) || used.has(adGroup.adGroupId)) continue;
    found.set(part.name, adGroup);
    used.add(adGroup.adGroupId);
  }
  return found;
}
