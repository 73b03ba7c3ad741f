import { posterior, priorOf, valuePerOrder, type Prior } from '../evidence/prior.ts';
import { addSibling, noSiblings } from '../evidence/siblings.ts';
import type { Belief } from '../evidence/verdict.ts';
import { movedPrior, wordsThatMove } from '../evidence/words.ts';
import { wordsOf } from '../terms/normalise.ts';
import { Pool, type Pooled } from '../round/pooling.ts';
import type { AdGroupInfo, ProductInfo } from '../round/types.ts';
import type { Level } from './columns.ts';
import { SumsColumns, type EvidenceColumns, type Objects, type Pairs } from '../account/store.ts';
import type { TableModel } from './table.ts';
import type { AccountTree } from './tree.ts';

/** Evidence by what it is counted of: groups of targets are judged by theirs. */
export interface Evidence {
  targets: EvidenceColumns;
  pairs: EvidenceColumns | null;
  placements: EvidenceColumns | null;
}

export type RowBelief = Belief & { prior: Prior };

/** What is believed of the rows of every level, worked out when it is first asked for. */
export class Beliefs {
  private readonly byLevel = new Map<Level, (row: number) => RowBelief>();
  private readonly pools = new Map<Level, (row: number) => Pooled>();

  constructor(
    private readonly data: {
      objects: Objects;
      pairs: Pairs | null;
      evidence: Evidence | null;
      model: TableModel;
    },
    private readonly tree: AccountTree,
    /** Spend per click of a row in the window; null without a click. */
    private readonly cpcAt: (level: Level, row: number) => number | null,
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
    const { n, y, seen } = this.evidenceOf(level);
    const prices = new Map<string, ProductInfo>(
      objects.products.map(({ sku, title, price, margin }) => [sku, { sku, title, price, margin }]),
    );
    const infos = objects.adGroups.map(({ id, name, campaign, sku }): AdGroupInfo => ({
      adGroupId: id,
      name,
      campaignId: objects.campaigns[campaign]!.id,
      campaign: objects.campaigns[campaign]!.name,
      automatic: objects.campaigns[campaign]!.kind === 'automatic',
      sku,
      enabled: true,
      archived: false,
      modifier: 1,
    }));
    const pool = new Pool(prices, this.data.model.drift);
    for (let row = 0; row < n.length; row++) {
      if (seen.clicks[row] === 0) continue;
      pool.add(infos[this.tree.adGroupOf(level, row)]!, {
        n: n[row]!,
        y: y[row]!,
        seenClicks: seen.clicks[row]!,
        seenOrders: seen.orders[row]!,
        seenSales: seen.sales[row]!,
      });
    }
    const made = (row: number) => pool.of(infos[this.tree.adGroupOf(level, row)]!);
    this.pools.set(level, made);
    return made;
  }

  private pooledBeliefs(level: 'targets' | 'terms'): (row: number) => RowBelief {
    const { n, y, seen } = this.evidenceOf(level);
    const siblings = this.siblings(level);
    const moved = level === 'terms' ? this.movedByWords() : () => 0;
    return (row) => {
      const { prior: before, value } = siblings(row);
      const prior = movedPrior(before, moved(row));
      return {
        prior,
        gamma: posterior(prior, n[row]!, y[row]!),
        value: valuePerOrder(value, seen.sales[row]!, seen.orders[row]!),
        cpc: this.cpcAt(level, row),
      };
    };
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
    return (row) => {
      const price = this.tree.productOf(level, row)?.price;
      return {
        prior,
        gamma: posterior(prior, n[row]!, y[row]!),
        value: valuePerOrder(price || usual, seen.sales[row]!, seen.orders[row]!),
        cpc: this.cpcAt(level, row),
      };
    };
  }
}
