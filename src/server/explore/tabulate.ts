import { crossTab, namePart, type CrossTab, type Fact } from '../../core/explore/crosstab.ts';
import { emptySums } from '../../core/explore/store.ts';
import type { Rows } from '../../core/explore/sorted.ts';
import type { AccountTable } from '../../core/explore/table.ts';

/** What a cross-tab is cut by. `name_part` splits the campaign's name. */
export const dimensions = [
  'campaign',
  'product',
  'campaign_kind',
  'status',
  'ad_group',
  'target_kind',
  'automatic_mode',
  'match_type',
  'placement',
  'weekday',
  'month',
  'name_part',
] as const;
export type Dimension = (typeof dimensions)[number];

/** Dimensions that placements know nothing of: what was clicked there is told by campaign only. */
export const targetDimensions: readonly Dimension[] = [
  'ad_group',
  'target_kind',
  'automatic_mode',
  'match_type',
];

export interface Cut {
  rows: Dimension;
  columns: Dimension;
  /** For name_part: what divides the parts (nothing: blanks), and which one is meant, from 0. */
  separator: string;
  part: number;
}

const weekdays = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

/** Sums of one object, in one weekday or month when the cut asks for such. */
export interface Piece {
  row: number;
  bucket: string;
  /** Impressions, clicks, spend, orders, units, sales. */
  figures: readonly number[];
}

/** Cross-tab of rows of a level. */
export function tabulate(
  table: AccountTable,
  level: 'targets' | 'placements',
  pieces: Iterable<Piece>,
  cut: Cut,
): CrossTab {
  const months = new Set<string>();
  const nameOf = (dimension: Dimension, { row, bucket }: Piece): string => {
    const read = (ref: string) => String(table.reader(level, ref)(row) ?? '(none)');
    switch (dimension) {
      case 'weekday':
        return weekdays[Number(bucket) - 1]!;
      case 'month':
        months.add(bucket);
        return bucket;
      case 'automatic_mode':
        return read('target_kind') === 'automatic' ? read('target') : '(not automatic)';
      case 'name_part':
        return namePart(read('campaign'), cut.separator, cut.part);
      case 'status':
        return read(level === 'placements' ? 'campaign_status' : 'status');
      case 'placement':
        return read('placement').replaceAll('_', ' ');
      default:
        return read(dimension);
    }
  };
  const facts: Fact[] = [];
  for (const piece of pieces) {
    const [impressions, clicks, spend, orders, units, sales] = piece.figures as [
      ...[number, number, number, number, number, number],
    ];
    if (impressions === 0 && spend === 0 && orders === 0) continue;
    facts.push({
      row: nameOf(cut.rows, piece),
      column: nameOf(cut.columns, piece),
      sums: { ...emptySums(), impressions, clicks, spend, orders, units, sales },
      targetAcos: table.goalAt(level, piece.row).targetAcos,
    });
  }
  const calendar = (dimension: Dimension) =>
    dimension === 'weekday' ? weekdays : dimension === 'month' ? [...months].sort() : null;
  const [rows, columns] = [calendar(cut.rows), calendar(cut.columns)];
  return crossTab(facts, { ...(rows ? { rows } : {}), ...(columns ? { columns } : {}) });
}

/** Pieces of whole rows, for cuts without time. */
export function* piecesOf(
  rows: Rows,
  sums: { read: (row: number, into: ReturnType<typeof emptySums>) => ReturnType<typeof emptySums> },
): Generator<Piece> {
  for (const row of rows) {
    const { impressions, clicks, spend, orders, units, sales } = sums.read(row, emptySums());
    yield { row, bucket: '', figures: [impressions, clicks, spend, orders, units, sales] };
  }
}
