import { posterior, priorOf, type Prior } from '../evidence/prior.ts';
import { valuePerOrder } from '../evidence/value.ts';
import { addSibling, noSiblings } from '../evidence/siblings.ts';
import {
  acosInterval,
  chanceOfNoOrder,
  clicksForAnOrder,
  probabilityOver,
  verdictOf,
  type AcosInterval,
  type Belief,
  type Verdict,
} from '../evidence/verdict.ts';
import type { Micros } from '../metrics/money.ts';
import { worthOfEffect } from '../effect/worth.ts';
import { blockEffect } from '../effect/weekly.ts';
import { isFiller } from '../text/normalise.ts';
import type { WordSums } from './words.ts';

/** A sequence of words with its sums over the window, what is believed of it, and what blocking it would be worth. */
export interface WordRow {
  words: string;
  /** How many words it has, 1 to 3. */
  length: number;
  terms: number;
  impressions: number;
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  seenClicks: number;
  seenOrders: number;
  seenSpend: Micros;
  /** Click-weighted mean of the goals of its terms. */
  targetAcos: number;
  prior: Prior;
  over: number | null;
  verdict: Verdict;
  interval: AcosInterval | null;
  /** Spend saved in a week by blocking it, less what its sales are worth at its goal's theta: micros. */
  worth: Micros;
  /** It is surely far over its goal, no shorter sequence in it is, and nobody marked it relevant. */
  proposed: boolean;
  relevant: boolean;
}

/** From this chance on a sequence is surely over (domain, section 7.2). */
const sureFrom = 0.9;
/**
 * A sequence is bad when it is surely over this many times its goal: what lies nearer is mended by lower bids, and a
 * negative would throw its orders away. Or when it is over and never sold though an average one surely would have:
 * there are thousands of sequences, so 99 % is asked of them instead of 90 % (docs/decisions/008-lanes.md).
 */
const farOver = 2;
const chanceOfNone = 0.01;

/** Judges sequences: each against what the siblings of its terms sell, by how far sequences scatter around that. */
export class WordVerdicts {
  private readonly strength: number;
  private readonly bad: Uint8Array;
  private readonly chance: Float64Array;

  constructor(
    private readonly sums: WordSums,
    /** Settled days of the window: what a week is reckoned from. */
    private readonly days: number,
    private readonly relevant: ReadonlySet<string>,
    /** For how many orders the usual value of its terms counts (`learnValueWeight`). */
    private readonly valueWeight: number,
  ) {
    const { n, y, seenClicks, seenOrders } = sums.figures;
    const siblings = noSiblings();
    for (let at = 0; at < n.length; at++) {
      if (sums.terms[sums.sequences[at]!]! < 2) continue;
      addSibling(siblings, n[at]!, y[at]!, seenClicks[at]!, seenOrders[at]!);
    }
    this.strength = priorOf(siblings, null).strength;
    this.chance = new Float64Array(n.length).fill(-1);
    this.bad = new Uint8Array(n.length);
    for (let at = 0; at < n.length; at++) {
      // What never cost anything in the window is no waste.
      if (sums.figures.clicks[at] === 0) continue;
      const belief = this.beliefAt(at);
      const over = belief.value > 0 ? probabilityOver(belief, this.goalAt(at)) : null;
      this.chance[at] = over ?? -1;
      if (over === null || this.isFiller(at)) continue;
      const { mu } = this.priorAt(at);
      // Never by what siblings say alone (domain, section 7.3).
      if (seenClicks[at]! < clicksForAnOrder(mu)) continue;
      const none = seenOrders[at] === 0 && chanceOfNoOrder(mu, seenClicks[at]!) <= chanceOfNone;
      if (none || probabilityOver(belief, farOver * this.goalAt(at))! >= sureFrom) this.bad[at] = 1;
    }
  }

  get count(): number {
    return this.sums.sequences.length;
  }

  private goalAt(at: number): number {
    const { goals, n } = this.sums.figures;
    return n[at]! > 0 ? goals[at]! / n[at]! : 0;
  }

  private thetaAt(at: number): number {
    const { thetas, n } = this.sums.figures;
    return n[at]! > 0 ? thetas[at]! / n[at]! : 0;
  }

  private priorAt(at: number): Prior {
    const { expected, n } = this.sums.figures;
    return { mu: n[at]! > 0 ? expected[at]! / n[at]! : 0, strength: this.strength, doubt: 0 };
  }

  /** What is believed of all terms that hold a sequence together. */
  beliefAt(at: number): Belief {
    const { n, y, values, seenOrders, seenSales, clicks, spend } = this.sums.figures;
    const above = { mean: n[at]! > 0 ? values[at]! / n[at]! : 0, weight: this.valueWeight };
    return {
      gamma: posterior(this.priorAt(at), n[at]!, y[at]!),
      value: valuePerOrder(above, seenSales[at]!, seenOrders[at]!),
      cpc: clicks[at]! > 0 ? spend[at]! / clicks[at]! : null,
    };
  }

  /** Whether a shorter sequence inside it is bad already: blocking that one blocks this one. */
  private hasBadPart(words: readonly string[]): boolean {
    for (let from = 0; from < words.length; from++) {
      for (let to = from + 1; to <= words.length; to++) {
        if (to - from === words.length) continue;
        const part = words.slice(from, to);
        const at = this.sums.at[this.sums.tree.find(part)] ?? -1;
        if (at >= 0 && this.bad[at] === 1 && !this.relevant.has(part.join(' '))) return true;
      }
    }
    return false;
  }

  private isFiller(at: number): boolean {
    return this.sums.tree.words(this.sums.sequences[at]!).every(isFiller);
  }

  /** Surely over its goal. */
  isOver(at: number): boolean {
    return this.chance[at]! >= sureFrom;
  }

  /** Surely so far over that only a negative helps. */
  isBad(at: number): boolean {
    return this.bad[at] === 1;
  }

  /** Money per week that blocking it is worth (domain, section 12): what sequences are sorted by. */
  worthAt(at: number): Micros {
    const over = this.chance[at]!;
    if (over < 0) return 0;
    const { clicks, spend } = this.sums.figures;
    const week = { clicks: (clicks[at]! / this.days) * 7, spend: (spend[at]! / this.days) * 7 };
    return Math.max(0, worthOfEffect(blockEffect(week, this.beliefAt(at), null), this.thetaAt(at)));
  }

  row(at: number): WordRow {
    const place = this.sums.sequences[at]!;
    const words = this.sums.tree.words(place);
    const text = words.join(' ');
    const { figures } = this.sums;
    const over = this.chance[at]! < 0 ? null : this.chance[at]!;
    const relevant = this.relevant.has(text);
    return {
      words: text,
      length: words.length,
      terms: this.sums.terms[place]!,
      impressions: figures.impressions[at]!,
      clicks: figures.clicks[at]!,
      spend: figures.spend[at]!,
      orders: figures.orders[at]!,
      sales: figures.sales[at]!,
      seenClicks: figures.seenClicks[at]!,
      seenOrders: figures.seenOrders[at]!,
      seenSpend: figures.seenSpend[at]!,
      targetAcos: this.goalAt(at),
      prior: this.priorAt(at),
      over,
      verdict: verdictOf(over),
      interval: acosInterval(this.beliefAt(at)),
      worth: this.worthAt(at),
      proposed: this.bad[at] === 1 && !relevant && !this.hasBadPart(words),
      relevant,
    };
  }
}
