import type { Micros } from '../metrics/money.ts';
import type { Sums } from '../metrics/figures.ts';
import type { AccountMatcher } from './matcher.ts';
import { emptySums, type Objects, type Pairs, type SumsColumns } from '../account/store.ts';

/** One target that could catch a term, and what would come of it. */
export interface Catcher {
  targetId: string;
  kind: string;
  matchType: string | null;
  expression: string;
  adGroupId: string;
  adGroup: string;
  campaign: string;
  sku: string | null;
  bid: Micros | null;
  /** The most that its campaign's placements raise the bid, as a factor from 1 on; and the bid times it. */
  raised: number;
  most: Micros | null;
  /** Why it is not shown; null when it could be. */
  stopped: string | null;
  /** Negatives that keep the term from it. */
  blockedBy: string[];
  /** 1 is shown first among the targets of its product; null when it cannot be shown. */
  rank: number | null;
  /** Why it stands where it stands. */
  reason: string;
  /** What it did with the term in the window; null when it never met it. */
  sums: Sums | null;
}

export interface Coverage {
  term: string;
  catchers: Catcher[];
  /** Every negative that blocks the term anywhere. */
  negatives: { id: string; name: string }[];
}

export interface CoverageGround {
  objects: Objects;
  pairs: Pairs;
  window: SumsColumns;
  matcher: AccountMatcher;
}

/** How narrowly a target is meant: of equal bids the narrower one is the better answer to the search. */
const narrowness = ({ kind, matchType }: { kind: string; matchType: string | null }): number =>
  matchType === 'exact' || kind === 'item' ? 0 : matchType === 'phrase' ? 1 : matchType === 'broad' ? 2 : 3;

/** Everything in the account that would catch or block a term, in the order in which it would be shown. */
export function coverageOf({ objects, pairs, window, matcher }: CoverageGround, term: string): Coverage {
  const met = new Map<number, Sums>();
  const low = term.toLowerCase();
  const id = pairs.texts.findIndex((text) => text?.toLowerCase() === low);
  if (id >= 0) {
    for (let row = 0; row < pairs.target.length; row++) {
      if (pairs.term[row] === id) met.set(pairs.target[row]!, window.read(row, emptySums()));
    }
  }
  // What cannot be told from words is told by what happened.
  const places = new Set([...matcher.catching(term), ...met.keys()]);
  const blocks = matcher.blocking(term);
  const raisedBy = highestModifiers(objects);
  const catchers = [...places].map((place): Catcher => {
    const target = objects.targets[place]!;
    const adGroup = objects.adGroups[target.adGroup]!;
    const campaign = objects.campaigns[adGroup.campaign]!;
    const raised = 1 + (raisedBy[adGroup.campaign] ?? 0) / 100;
    return {
      targetId: target.id,
      kind: target.kind,
      matchType: target.matchType,
      expression: target.expression,
      adGroupId: adGroup.id,
      adGroup: adGroup.name,
      campaign: campaign.name,
      sku: adGroup.sku,
      bid: target.bid,
      raised,
      most: target.bid === null ? null : Math.round(target.bid * raised),
      stopped:
        matcher.running.stopped(place) ??
        (adGroup.sku === null ? 'its ad group advertises no product' : null),
      blockedBy: blocks
        .filter((block) => matcher.stands(block, target.adGroup))
        .map((one) => matcher.nameOfNegative(one)),
      rank: null,
      reason: '',
      sums: met.get(place) ?? null,
    };
  });
  return {
    term,
    catchers: ranked(catchers),
    negatives: blocks.map((block) => ({
      id: objects.negatives[block]!.id,
      name: matcher.nameOfNegative(block),
    })),
  };
}

function highestModifiers({ placements, campaigns }: Objects): Float64Array {
  const highest = new Float64Array(campaigns.length);
  for (const { campaign, modifier } of placements)
    highest[campaign] = Math.max(highest[campaign]!, modifier ?? 0);
  return highest;
}

/**
 * One ad a product and search: among its targets the highest bid comes first, then the narrower, then the older. The
 * product that bids most stands first, its targets in their order; what cannot be shown stands last.
 */
function ranked(catchers: Catcher[]): Catcher[] {
  const shown = (one: Catcher) => one.stopped === null && one.blockedBy.length === 0;
  catchers.sort(
    (a, b) =>
      Number(shown(b)) - Number(shown(a)) ||
      (b.most ?? 0) - (a.most ?? 0) ||
      narrowness(a) - narrowness(b) ||
      Number(a.targetId) - Number(b.targetId),
  );
  const order = [...new Set(catchers.filter(shown).map(({ sku }) => sku))];
  const place = (one: Catcher) => (shown(one) ? order.indexOf(one.sku) : order.length);
  // The sort is stable: inside a product the order stays.
  catchers.sort((a, b) => place(a) - place(b));
  const first = new Map<string, Catcher>();
  const ranks = new Map<string, number>();
  for (const one of catchers) {
    if (one.stopped !== null) one.reason = `Not shown: ${one.stopped}.`;
    else if (one.blockedBy.length > 0) one.reason = `Blocked by ${one.blockedBy.join(' and ')}.`;
    else {
      const product = one.sku ?? '';
      const leader = first.get(product);
      one.rank = (ranks.get(product) ?? 0) + 1;
      ranks.set(product, one.rank);
      if (!leader) first.set(product, one);
      one.reason = reasonOf(one, leader ?? null);
    }
  }
  return catchers;
}

const amount = (micros: Micros | null): string =>
  micros === null ? 'no bid known' : (micros / 1e6).toFixed(2);

function reasonOf(one: Catcher, leader: Catcher | null): string {
  const bid =
    one.raised > 1
      ? `${amount(one.bid)} × ${one.raised.toFixed(2)} in its best placement = ${amount(one.most)}`
      : amount(one.most);
  if (!leader) return `Shown first for its product: bids ${bid}.`;
  if (one.most === leader.most) return `Bids ${bid}, as ${leader.adGroup} does, and is the wider match.`;
  return `Bids ${bid}, less than ${amount(leader.most)} of ${leader.adGroup}: one product is shown once.`;
}
