import type { Micros } from '../metrics/money.ts';
import type { Evidence, PresentSums, TargetRow } from './rows.ts';
import type { Running } from './running.ts';
import type {
  EvidenceColumns,
  FreshColumns,
  Objects,
  PresentColumns,
  SumsColumns,
  TargetObject,
} from './store.ts';

/**
 * Rows that are read where they stand in the columns: of a large account a million are made at once, and none keeps a
 * number of its own.
 */

/** What a row's evidence is read from, a column each. */
export interface EvidenceFigures {
  sums: SumsColumns;
  highestCpc: Float64Array | null;
  evidence: EvidenceColumns;
}

export class EvidenceAt implements Evidence {
  constructor(
    private readonly figures: EvidenceFigures,
    protected readonly row: number,
  ) {}

  get impressions(): number {
    return this.figures.sums.impressions[this.row]!;
  }
  get clicks(): number {
    return this.figures.sums.clicks[this.row]!;
  }
  get spend(): Micros {
    return this.figures.sums.spend[this.row]!;
  }
  get orders(): number {
    return this.figures.sums.orders[this.row]!;
  }
  get units(): number {
    return this.figures.sums.units[this.row]!;
  }
  get sales(): Micros {
    return this.figures.sums.sales[this.row]!;
  }
  get n(): number {
    return this.figures.evidence.n[this.row]!;
  }
  get y(): number {
    return this.figures.evidence.y[this.row]!;
  }
  get seenClicks(): number {
    return this.figures.evidence.seen.clicks[this.row]!;
  }
  get seenOrders(): number {
    return this.figures.evidence.seen.orders[this.row]!;
  }
  get seenSpend(): Micros {
    return this.figures.evidence.seen.spend[this.row]!;
  }
  get seenSales(): Micros {
    return this.figures.evidence.seen.sales[this.row]!;
  }
  get highestCpc(): Micros {
    return this.figures.highestCpc?.[this.row] ?? 0;
  }
}

/** What targets are judged by, a column each. */
export interface TargetFigures extends EvidenceFigures {
  present: PresentColumns;
  fresh: FreshColumns | null;
}

/** One target's figures at its present bid, read out of the columns when asked. */
class PresentAt implements PresentSums {
  constructor(
    private readonly columns: PresentColumns,
    private readonly row: number,
  ) {}

  get days(): number {
    return this.columns.days[this.row]!;
  }
  get clicks(): number {
    return this.columns.clicks[this.row]!;
  }
  get spend(): Micros {
    return this.columns.spend[this.row]!;
  }
  get priced(): number {
    return this.columns.priced[this.row]!;
  }
}

export class TargetAt extends EvidenceAt implements TargetRow {
  private readonly target: TargetObject;
  readonly enabled: boolean;
  readonly adGroupId: string;

  constructor(
    { targets, adGroups }: Objects,
    runs: Running,
    private readonly all: TargetFigures,
    place: number,
  ) {
    super(all, place);
    this.target = targets[place]!;
    this.enabled = runs.target(place);
    this.adGroupId = adGroups[this.target.adGroup]!.id;
  }

  get present(): PresentSums {
    return new PresentAt(this.all.present, this.row);
  }

  get targetId(): string {
    return this.target.id;
  }
  get kind(): TargetRow['kind'] {
    return this.target.kind as TargetRow['kind'];
  }
  get matchType(): string | null {
    return this.target.matchType;
  }
  get expression(): string {
    return this.target.expression;
  }
  get bid(): Micros | null {
    return this.target.bid;
  }
  get changedOn(): TargetRow['changedOn'] {
    return this.target.changedOn;
  }
  get freshN(): number {
    return this.all.fresh?.n[this.row] ?? 0;
  }
  get freshY(): number {
    return this.all.fresh?.orders[this.row] ?? 0;
  }
  get freshClicks(): number {
    return this.all.fresh?.clicks[this.row] ?? 0;
  }
  get freshSpend(): Micros {
    return this.all.fresh?.spend[this.row] ?? 0;
  }
}

/**
 * Every target that is not archived, by place. What was archived tells nothing of those that are left: they are its
 * betters.
 */
export const targetsByPlace = (
  objects: Objects,
  runs: Running,
  figures: TargetFigures,
): (TargetRow | undefined)[] =>
  objects.targets.map(({ status }, place) =>
    status === 'archived' ? undefined : new TargetAt(objects, runs, figures, place),
  );

export const targetRows = (objects: Objects, runs: Running, figures: TargetFigures): TargetRow[] =>
  targetsByPlace(objects, runs, figures).filter((row) => row !== undefined);
