import { PairPlaces, Places } from '../../core/account/places.ts';
import type { Pairs } from '../../core/account/store.ts';
import type { Day, Window } from '../../core/metrics/days.ts';
import type { Database } from '../db/connection.ts';
import { blocksOf, type Block } from '../facts/blocks.ts';
import type { Part } from '../facts/blocks.queries.ts';
import { summariesIn } from '../facts/summaries.queries.ts';
import { pairPlaces, Seen, targetPlaces } from './day-loops.ts';

/** What is summed from blocks of days; placements are few and summed by Postgres. */
export type BlockSumsOf = 'targets' | 'pairs';
const blockFact = { targets: 'target_day', pairs: 'term_day' } as const;

/** The figures of a day, and where each of its rows belongs; -1: nowhere. */
export interface DayRows {
  block: Block;
  places: Int32Array;
}

/**
 * The days of an account, row by row. Where the rows of a day of terms belong is looked up once, when the pairs are
 * first met, and kept while the day stays as it is: ten million look-ups take longer than all sums.
 */
export class AccountDays {
  private readonly pairAt = new PairPlaces();
  private readonly kept = new Map<Day, { stamp: string; places: Int32Array }>();

  constructor(
    private readonly sql: Database,
    private readonly accountId: number,
    private readonly today: Day,
    private readonly targetAt: Places,
  ) {}

  private blocks(of: BlockSumsOf, part: Part, window: Window): AsyncGenerator<Block> {
    return blocksOf(this.sql, this.accountId, blockFact[of], window, part);
  }

  private get ever(): Window {
    return { from: '2000-01-01', to: this.today };
  }

  /** About how much memory is kept. */
  get bytes(): number {
    return [...this.kept.values()].reduce((sum, { places }) => sum + places.length * 4, 0);
  }

  /** First and last days of all targets. */
  async seenTargets(count: number): Promise<[first: Day[], last: Day[]]> {
    const seen = new Seen();
    for await (const block of this.blocks('targets', 'ids', this.ever))
      seen.noteAll(targetPlaces(block, this.targetAt), block.day);
    return seen.days(count);
  }

  /** Meets all pairs there ever were. `term` here: ids. */
  async meetPairs(): Promise<Pick<Pairs, 'target' | 'term' | 'firstSeen' | 'lastSeen'>> {
    const seen = new Seen();
    for await (const block of this.blocks('pairs', 'ids', this.ever)) {
      const places = pairPlaces(block, this.targetAt, this.pairAt, true);
      this.kept.set(block.day, { stamp: block.stamp, places });
      seen.noteAll(places, block.day);
    }
    await summariesIn(this.sql, this.accountId, 'pairs', this.ever, ([target, term]) => {
      const at = this.targetAt.at(Number(target));
      if (at >= 0) this.pairAt.add(at, Number(term));
    });
    const { left: target, right: term } = this.pairAt.columns();
    const [firstSeen, lastSeen] = seen.days(this.pairAt.count);
    return { target, term, firstSeen, lastSeen };
  }

  /** The place of a pair by the ids of its target and its term. */
  pairOf(targetId: number, termId: number): number {
    return this.pairAt.find(this.targetAt.at(targetId), termId);
  }

  /** The days of a window that a report told. */
  async *rows(of: BlockSumsOf, window: Window): AsyncGenerator<DayRows> {
    if (of === 'targets') {
      for await (const block of this.blocks(of, 'all', window))
        yield { block, places: targetPlaces(block, this.targetAt) };
      return;
    }
    // Days that were loaded again since the pairs were met: their rows are others.
    const anew: Day[] = [];
    for await (const block of this.blocks(of, 'figures', window)) {
      const known = this.kept.get(block.day);
      if (known?.stamp === block.stamp) yield { block, places: known.places };
      else anew.push(block.day);
    }
    for (const day of anew)
      for await (const block of this.blocks(of, 'all', { from: day, to: day }))
        yield { block, places: pairPlaces(block, this.targetAt, this.pairAt, false) };
  }
}
