/**
 * Which clicks a change takes hold of, so that sums count no money twice: a negative phrase settles the terms that hold
 * it, a bid that goes down has less to save once a term of its target is blocked (domain, section 12).
 */

/** A target whose clicks a change takes hold of: how many a week, and which part of the target's own they are (0-1). */
export interface Claim {
  targetId: string;
  clicks: number;
  part: number;
}

/** One term, or every term that holds these words in a row. Lower case, one space between words. */
export interface ClaimedText {
  kind: 'term' | 'phrase';
  words: string;
}

export interface Claiming {
  claims: readonly Claim[];
  /** What of its targets it takes hold of; null: all their clicks, as a bid does. */
  text: ClaimedText | null;
  /** The share of these clicks that are gone afterwards: 1 for a negative, 0 for a raise. */
  takes: number;
}

/** What changes counted so far have left of one target. */
interface Left {
  /** Of the clicks that no text has taken: what bids have left. */
  factor: number;
  /** Part of the target's clicks that texts have taken. */
  taken: number;
  texts: { text: ClaimedText; part: number }[];
}

const holds = (text: string, words: string): boolean => ` ${text} `.includes(` ${words} `);

/** Whether all that `inner` takes hold of is a part of what `outer` does. */
const covers = (outer: ClaimedText, inner: ClaimedText): boolean =>
  outer.kind === 'term'
    ? inner.kind === 'term' && inner.words === outer.words
    : holds(inner.words, outer.words);

/** Counts changes one after the other: each only with what those before it have left. */
export class Claimed {
  private readonly byTarget = new Map<string, Left>();

  /** The part of a target that a claim still finds there, as a part of all its clicks. */
  private left({ targetId, part }: Claim, text: ClaimedText | null): number {
    const known = this.byTarget.get(targetId);
    if (!known) return part;
    const { factor, taken, texts } = known;
    if (text === null) return Math.max(0, Math.min(part, 1 - taken)) * factor;
    let own = part;
    for (const one of texts) {
      if (covers(one.text, text)) return 0;
      if (covers(text, one.text)) own -= one.part;
    }
    // Phrases that overlap in part: no more can be there than nobody has taken.
    return Math.max(0, Math.min(own, 1 - taken)) * factor;
  }

  /** Which share of what a change would do is still there to be done, 0-1; of one that claims nothing all of it. */
  share({ claims, text }: Claiming): number {
    let [all, left] = [0, 0];
    for (const claim of claims) {
      if (claim.part <= 0) continue;
      all += claim.clicks;
      left += (claim.clicks * this.left(claim, text)) / claim.part;
    }
    return all > 0 ? Math.min(1, left / all) : 1;
  }

  /** Counts a change: what it takes is there for none after it. */
  add({ claims, text, takes }: Claiming): void {
    for (const claim of claims) {
      const known = this.byTarget.get(claim.targetId) ?? { factor: 1, taken: 0, texts: [] };
      if (text === null) known.factor *= 1 - takes;
      else {
        // What bids have left is scaled by them; texts are told apart before that.
        const part = known.factor > 0 ? (this.left(claim, text) / known.factor) * takes : 0;
        known.taken = Math.min(1, known.taken + part);
        known.texts.push({ text, part });
      }
      this.byTarget.set(claim.targetId, known);
    }
  }

  /** Counts a change and tells the share of it that counted. */
  take(one: Claiming): number {
    const share = this.share(one);
    this.add(one);
    return share;
  }
}

/** Shares of changes that count, each after those before it in their order. */
export function sharesOf(changes: Iterable<Claiming | null>): number[] {
  const claimed = new Claimed();
  return [...changes].map((one) => (one === null ? 1 : claimed.take(one)));
}

/** The share of its clicks that a bid gives up; a raise gives up none. */
export const takenByBid = (clicksBefore: number, change: number): number =>
  clicksBefore > 0 ? Math.min(1, Math.max(0, -change / clicksBefore)) : 0;
