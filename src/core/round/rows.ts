import { EvidenceAt, type EvidenceFigures } from '../account/views.ts';
import type { AdGroupInfo, LaneColumns, LaneCounts, TargetRow } from '../account/rows.ts';
import { SumsColumns, type Objects, type Pairs } from '../account/store.ts';
import { noSiblings, addTally } from '../evidence/siblings.ts';
import type { QuietTerms } from '../evidence/pooling.ts';
import { isQuiet, type Caught, type TermInAdGroup } from './terms.ts';
import type { TermsInput } from './types.ts';

/** What terms are judged by, a column each, by pair. */
export interface TermFigures extends EvidenceFigures {
  /** Null where all lanes count over all days of evidence. */
  lanes: LaneColumns | null;
}

/** The rows that terms refer to, by the place of the ad group and of the target; archived targets have none. */
export interface RowsByPlace {
  adGroups: readonly AdGroupInfo[];
  targets: readonly (TargetRow | undefined)[];
}

/** Terms that may become a finding, each in its ad group; all others summed by ad group as siblings. */
export function termRows(
  objects: Objects,
  pairs: Pairs,
  figures: TermFigures,
  rows: RowsByPlace,
): TermsInput {
  const { openAt, count, quietTerms } = sortOut(objects, pairs, figures);
  const open = Int32Array.from(pairs.places.of, (place) => openAt[place]!);
  return { terms: termsAt(pairs, figures, rows, open, count), quietTerms };
}

/** Numbers the terms that are not quiet; -1 for others. Sums up what is quiet. */
function sortOut(
  { targets, adGroups }: Objects,
  pairs: Pairs,
  { sums, evidence: { n, y, seen } }: TermFigures,
): { openAt: Int32Array; count: number; quietTerms: Map<string, QuietTerms> } {
  const { of, count, adGroup, archived } = pairs.places;
  const single = Uint8Array.from(targets, ({ kind, matchType }) =>
    kind === 'item' || matchType === 'exact' ? 1 : 0,
  );
  /** Seen within the window or the days of evidence at all. */
  const known = new Uint8Array(count);
  /** Caught by more than exact keywords and item targets: of others there is nothing to harvest or to block. */
  const research = new Uint8Array(count);
  const clicks = new Float64Array(count);
  const seenClicks = new Float64Array(count);
  const seenOrders = new Float64Array(count);
  for (let row = 0; row < of.length; row++) {
    const place = of[row]!;
    clicks[place]! += sums.clicks[row]!;
    seenClicks[place]! += seen.clicks[row]!;
    seenOrders[place]! += seen.orders[row]!;
    if (sums.impressions[row]! <= 0 && seen.impressions[row]! <= 0 && seen.clicks[row]! <= 0) continue;
    known[place] = 1;
    if (single[pairs.target[row]!] === 0) research[place] = 1;
  }
  const openAt = new Int32Array(count).fill(-1);
  let open = 0;
  const groups: QuietTerms[] = [];
  const quietTerms = new Map<string, QuietTerms>();
  const term = { clicks: 0, seenClicks: 0, seenOrders: 0 };
  for (let place = 0; place < count; place++) {
    if (archived[place] === 1 || known[place] === 0) continue;
    term.clicks = clicks[place]!;
    term.seenClicks = seenClicks[place]!;
    term.seenOrders = seenOrders[place]!;
    if (research[place] === 1 && !isQuiet(term)) {
      openAt[place] = open++;
      continue;
    }
    const group = (groups[adGroup[place]!] ??= { terms: 0, siblings: noSiblings(), orders: 0, sales: 0 });
    if (group.terms++ === 0) quietTerms.set(adGroups[adGroup[place]!]!.id, group);
    group.orders += term.seenOrders;
    if (term.seenClicks > 0) addTally(group.siblings, term.seenClicks, term.seenOrders, 1);
  }
  for (let row = 0; row < of.length; row++) {
    const place = of[row]!;
    if (openAt[place]! >= 0 || archived[place] === 1 || known[place] === 0) continue;
    const group = groups[adGroup[place]!]!;
    group.sales += seen.sales[row]!;
    if (seenClicks[place] === 0) continue;
    group.siblings.n += n[row]!;
    group.siblings.y += y[row]!;
  }
  return { openAt, count: open, quietTerms };
}

/** `open`: the term of each pair, below `count`; -1 for pairs of none. */
function termsAt(
  pairs: Pairs,
  { sums, highestCpc, evidence, lanes }: TermFigures,
  rows: RowsByPlace,
  open: Int32Array,
  count: number,
): TermInAdGroup[] {
  const grouped = (column: Float64Array): Float64Array => {
    const into = new Float64Array(count);
    for (let row = 0; row < open.length; row++) if (open[row]! >= 0) into[open[row]!]! += column[row]!;
    return into;
  };
  const figures: EvidenceFigures = {
    sums: new SumsColumns(count).addGrouped(sums, open),
    evidence: {
      n: grouped(evidence.n),
      y: grouped(evidence.y),
      seen: new SumsColumns(count).addGrouped(evidence.seen, open),
    },
    highestCpc: highestCpc && highestOf(highestCpc, open, count),
  };
  const laneColumns: LaneColumns | null = lanes && {
    keywordClicks: grouped(lanes.keywordClicks),
    keywordOrders: grouped(lanes.keywordOrders),
    itemClicks: grouped(lanes.itemClicks),
    itemOrders: grouped(lanes.itemOrders),
  };
  const catches = new Catches(pairs.target, sums.clicks, open, count, rows);
  const terms: TermInAdGroup[] = [];
  const { of, adGroup } = pairs.places;
  for (let at = 0; at < count; at++) {
    const first = catches.mostOf(at);
    terms.push(
      new TermAt(
        figures,
        at,
        pairs.texts[pairs.term[first]!]!,
        rows.adGroups[adGroup[of[first]!]!]!,
        rows.targets[pairs.target[first]!]!,
        catches,
        laneColumns,
      ),
    );
  }
  return terms;
}

function highestOf(column: Float64Array, open: Int32Array, count: number): Float64Array {
  const into = new Float64Array(count);
  for (let row = 0; row < open.length; row++) {
    const at = open[row]!;
    if (at >= 0 && column[row]! > into[at]!) into[at] = column[row]!;
  }
  return into;
}

/** Which pairs make up each term, one list after the other. */
class Catches {
  private readonly starts: Int32Array;
  private readonly members: Int32Array;

  constructor(
    private readonly target: Int32Array,
    private readonly clicks: Float64Array,
    open: Int32Array,
    count: number,
    private readonly rows: RowsByPlace,
  ) {
    this.starts = new Int32Array(count + 1);
    for (const at of open) if (at >= 0) this.starts[at + 1]!++;
    for (let at = 0; at < count; at++) this.starts[at + 1]! += this.starts[at]!;
    this.members = new Int32Array(this.starts[count]!);
    const next = this.starts.slice();
    for (let row = 0; row < open.length; row++) if (open[row]! >= 0) this.members[next[open[row]!]!++] = row;
  }

  /** The pair with most clicks; of two that caught as much the older target's stands for the term. */
  mostOf(at: number): number {
    let best = this.members[this.starts[at]!]!;
    for (let i = this.starts[at]! + 1; i < this.starts[at + 1]!; i++) {
      const row = this.members[i]!;
      const [more, clicks] = [this.clicks[row]!, this.clicks[best]!];
      if (more > clicks || (more === clicks && this.target[row]! < this.target[best]!)) best = row;
    }
    return best;
  }

  of(at: number): Caught[] {
    return Array.from(this.members.subarray(this.starts[at], this.starts[at + 1]), (row) => ({
      target: this.rows.targets[this.target[row]!]!,
      clicks: this.clicks[row]!,
    }));
  }
}

const none: readonly string[] = [];

/** A term of an ad group, and its own evidence. */
class TermAt extends EvidenceAt implements TermInAdGroup {
  constructor(
    figures: EvidenceFigures,
    at: number,
    readonly term: string,
    readonly adGroup: AdGroupInfo,
    readonly target: TargetRow,
    private readonly catches: Catches,
    private readonly lanes: LaneColumns | null,
  ) {
    super(figures, at);
  }

  get evidence(): this {
    return this;
  }
  get caught(): Caught[] {
    return this.catches.of(this.row);
  }
  get alsoFrom(): readonly string[] {
    return none;
  }
  get laneCounts(): LaneCounts | null {
    const { lanes, row: at } = this;
    return (
      lanes && {
        keywordClicks: lanes.keywordClicks[at]!,
        keywordOrders: lanes.keywordOrders[at]!,
        itemClicks: lanes.itemClicks[at]!,
        itemOrders: lanes.itemOrders[at]!,
      }
    );
  }
}
