import { presentCpcs } from './present-cpc.ts';
import type { Level } from '../account/levels.ts';
import { posterior, priorOf, type Prior } from './prior.ts';
import { valuePerOrder } from './value.ts';
import { addSibling, noSiblings } from './siblings.ts';
import type { Belief } from './verdict.ts';
import { movedPrior, wordsThatMove } from './words.ts';
import { wordsOf } from '../text/normalise.ts';
import { Pool, type Pooled, type RowModel } from './pooling.ts';
import { adGroupInfos, productInfos } from '../account/rows.ts';
import { runningOn } from '../account/running.ts';
import type { Day } from '../metrics/days.ts';
import {
  SumsColumns,
  type EvidenceColumns,
  type Objects,
  type Pairs,
  type PresentColumns,
} from '../account/store.ts';
import type { AccountTree } from '../account/tree.ts';

/** Evidence by what it is counted of: groups of targets are judged by theirs. */
export interface Evidence {
  targets: EvidenceColumns;
  pairs: EvidenceColumns | null;
  placements: EvidenceColumns | null;
  /** What targets do at their present bids, with what placements make of a bid by campaign; null: CPC of the window. */
  present?: { columns: PresentColumns; modifiers: Float64Array } | null;
}

export type RowBelief = Belief & { prior: Prior };

/** What targets and terms are judged against: their siblings, and the goal that rules them. */
export interface Judging {
  siblings(level: 'targets' | 'terms', row: number): Pooled;
  readonly valueWeight: number;
  goalAt(level: Level, row: number): { targetAcos: number; theta: number };
}

type Pooling = Pick<EvidenceColumns, 'n' | 'y' | 'seen'>;

/** Terms by ad group, a column each; `of`: the place of every row of the term level. */
interface TermsOfAdGroups extends Pooling {
  of: Int32Array;
  archived: Uint8Array;
  adGroup: Int32Array;
  window: SumsColumns;
}

/** Spend per click; null without a click. */
const cpcIn = ({ clicks, spend }: SumsColumns, row: number): number | null =>
  clicks[row]! > 0 ? spend[row]! / clicks[row]! : null;

/** What is believed of the rows of every level, worked out when it is first asked for. */
export class Beliefs {
  private readonly byLevel = new Map<Level, (row: number) => RowBelief>();
  private readonly pools = new Map<Level, (row: number) => Pooled>();
  private terms: TermsOfAdGroups | null = null;

  constructor(
    private readonly data: {
      today: Day;
      objects: Objects;
      pairs: Pairs | null;
      evidence: Evidence | null;
      /** What was learned of rows, and what words tell of terms. */
      model: RowModel & { words: ReadonlyMap<string, number> };
    },
    private readonly tree: AccountTree,
    /** Sums of the window. */
    private readonly sumsOf: (level: Level) => SumsColumns,
  ) {}

  /**
   * What is believed of a row. Targets and terms are judged as everywhere, against their ad group and what is above
   * it; groups against the groups beside them.
   */
  of(level: Level): (row: number) => RowBelief {
    const known = this.byLevel.get(level);
    if (known) return known;
    const made =
      level === 'targets' || level === 'terms' ? this.pooledBeliefs(level) : this.groupBeliefs(level);
    this.byLevel.set(level, made);
    return made;
  }

  private evidenceOf(level: Level): EvidenceColumns {
    const { evidence } = this.data;
    if (!evidence) throw new Error('No evidence was read.');
    const own =
      level === 'terms' ? evidence.pairs : level === 'placements' ? evidence.placements : evidence.targets;
    if (!own) throw new Error(`No evidence of ${level} was read.`);
    if (level === 'targets' || level === 'terms' || level === 'placements') return own;
    const group = this.tree.groupOf(level);
    const count = this.tree.count(level);
    const [n, y] = [new Float64Array(count), new Float64Array(count)];
    for (let row = 0; row < group.length; row++) {
      const at = group[row]!;
      if (at < 0) continue;
      n[at]! += own.n[row]!;
      y[at]! += own.y[row]!;
    }
    return { n, y, seen: new SumsColumns(count).addGrouped(own.seen, group) };
  }

  /** What the siblings of a target or term say before it speaks. */
  siblings(level: 'targets' | 'terms'): (row: number) => Pooled {
    const known = this.pools.get(level);
    if (known) return known;
    const { objects } = this.data;
    const infos = adGroupInfos(objects, runningOn(objects, this.data.today));
    const pool = new Pool(productInfos(objects), this.data.model, objects.mixes);
    const add = (place: number, adGroup: number, from: Pooling) => {
      if (from.seen.clicks[place] === 0) return;
      pool.add(infos[adGroup]!, {
        n: from.n[place]!,
        y: from.y[place]!,
        seenClicks: from.seen.clicks[place]!,
        seenOrders: from.seen.orders[place]!,
        seenSales: from.seen.sales[place]!,
      });
    };
    if (level === 'terms') {
      const terms = this.termsOfAdGroups();
      for (let place = 0; place < terms.archived.length; place++)
        if (terms.archived[place] === 0) add(place, terms.adGroup[place]!, terms);
    } else {
      const evidence = this.evidenceOf(level);
      objects.targets.forEach(({ status, adGroup }, place) => {
        if (status !== 'archived') add(place, adGroup, evidence);
      });
    }
    const made = (row: number) => pool.of(infos[this.tree.adGroupOf(level, row)]!);
    this.pools.set(level, made);
    return made;
  }

  /** Terms as they are judged: in their ad group, whichever of its targets caught them. */
  private termsOfAdGroups(): TermsOfAdGroups {
    if (this.terms) return this.terms;
    const { n, y, seen } = this.evidenceOf('terms');
    const { of, count, adGroup, archived } = this.data.pairs!.places;
    const made: TermsOfAdGroups = {
      of,
      archived,
      adGroup,
      n: new Float64Array(count),
      y: new Float64Array(count),
      seen: new SumsColumns(count).addGrouped(seen, of),
      window: new SumsColumns(count).addGrouped(this.sumsOf('terms'), of),
    };
    for (let row = 0; row < of.length; row++) {
      made.n[of[row]!]! += n[row]!;
      made.y[of[row]!]! += y[row]!;
    }
    return (this.terms = made);
  }

  private pooledBeliefs(level: 'targets' | 'terms'): (row: number) => RowBelief {
    const siblings = this.siblings(level);
    if (level === 'targets') {
      const { n, y, seen } = this.evidenceOf(level);
      const cpcAt = this.cpcOfTargets();
      return (row) => {
        const { prior, value } = siblings(row);
        return {
          prior,
          gamma: posterior(prior, n[row]!, y[row]!),
          value: valuePerOrder(value, seen.sales[row]!, seen.orders[row]!),
          cpc: cpcAt(row),
        };
      };
    }
    const { of, n, y, seen, window } = this.termsOfAdGroups();
    const moved = this.movedByWords();
    return (row) => {
      const place = of[row]!;
      const { prior: before, value } = siblings(row);
      const prior = movedPrior(before, moved(row));
      return {
        prior,
        gamma: posterior(prior, n[place]!, y[place]!),
        value: valuePerOrder(value, seen.sales[place]!, seen.orders[place]!),
        cpc: cpcIn(window, place),
      };
    };
  }

  /** CPC at the present bid where it is known, as everywhere that bids are judged; else that of the window. */
  private cpcOfTargets(): (row: number) => number | null {
    const { objects, evidence, today } = this.data;
    const sums = this.sumsOf('targets');
    if (!evidence?.present) return (row) => cpcIn(sums, row);
    const { columns: present, modifiers } = evidence.present;
    const figures = { sums, highestCpc: null, evidence: evidence.targets, present, fresh: null };
    const cpcs = presentCpcs(objects, runningOn(objects, today), modifiers, figures);
    return (row) => (Number.isNaN(cpcs[row]!) ? null : cpcs[row]!);
  }

  /** What the words of a term tell of it, natural logs by place. */
  private movedByWords(): (row: number) => number {
    const { pairs, model } = this.data;
    if (!pairs || model.words.size === 0) return () => 0;
    const sums = new Map<number, number>();
    return (row) => {
      const term = pairs.term[row]!;
      let sum = sums.get(term);
      if (sum === undefined)
        sums.set(term, (sum = wordsThatMove(model.words, wordsOf(pairs.texts[term]!)).sum));
      return sum;
    };
  }

  private groupBeliefs(level: Level): (row: number) => RowBelief {
    const { n, y, seen } = this.evidenceOf(level);
    const window = this.sumsOf(level);
    const siblings = noSiblings();
    let sales = 0;
    let orders = 0;
    for (let row = 0; row < n.length; row++) {
      addSibling(siblings, n[row]!, y[row]!, seen.clicks[row]!, seen.orders[row]!);
      sales += seen.sales[row]!;
      orders += seen.orders[row]!;
    }
    const prior = priorOf(siblings, null);
    const usual = orders > 0 ? sales / orders : 0;
    const weight = this.data.model.valueWeight;
    return (row) => {
      const price = this.tree.productOf(level, row)?.price;
      return {
        prior,
        gamma: posterior(prior, n[row]!, y[row]!),
        value: valuePerOrder({ mean: price || usual, weight }, seen.sales[row]!, seen.orders[row]!),
        cpc: cpcIn(window, row),
      };
    };
  }
}
