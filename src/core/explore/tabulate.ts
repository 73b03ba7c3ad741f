import type { Rows } from '../account/levels.ts';
import { crossTab, namePart, type CrossTab, type Fact } from './crosstab.ts';
import { emptySums } from '../account/store.ts';
import type { AccountTable } from './table.ts';

/** What a cross-tab is cut by. `name_part` splits the campaign's name, `ad_group_part` that of the ad group. */
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
  'hour',
  'name_part',
  'ad_group_part',
] as const;
export type Dimension = (typeof dimensions)[number];

const times = ['weekday', 'month', 'hour'] as const;
export type Time = (typeof times)[number];
export const isTime = (dimension: Dimension): dimension is Time =>
  (times as readonly Dimension[]).includes(dimension);

/** Dimensions of targets: what is told by campaign only, placements and hours, cannot be cut by them. */
const targetDimensions: readonly Dimension[] = [
  'ad_group',
  'ad_group_part',
  'target_kind',
  'automatic_mode',
  'match_type',
];

/** Why a cut cannot be made, as a sentence; null when it can. */
export function whyNoCut({ rows, columns }: Cut): string | null {
  const both = [rows, columns];
  if (both.includes('placement') && both.includes('hour'))
    return 'The marketplace tells hours by campaign: they cannot be cut by placement.';
  const told = both.includes('placement') ? 'placements' : both.includes('hour') ? 'hours' : null;
  const lost = both.find((one) => targetDimensions.includes(one));
  return told && lost
    ? `The marketplace tells ${told} by campaign: they cannot be cut by ${lost.replaceAll('_', ' ')}.`
    : null;
}

/** The level whose rows a cut is made of. */
export const levelOfCut = ({ rows, columns }: Cut): 'targets' | 'placements' | 'campaigns' =>
  [rows, columns].includes('placement')
    ? 'placements'
    : [rows, columns].includes('hour')
      ? 'campaigns'
      : 'targets';

export interface Cut {
  rows: Dimension;
  columns: Dimension;
  /** For name_part: what divides the parts (nothing: blanks), and which one is meant, from 0. */
  separator: string;
  part: number;
}

const weekdays = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

const hours = Array.from({ length: 24 }, (_, hour) => `${hour}:00`);

/** Sums of one object, in one weekday, month or hour when the cut asks for such. */
export interface Piece {
  row: number;
  times: Partial<Record<Time, string>>;
  /** Impressions, clicks, spend, orders, units, sales. */
  figures: readonly number[];
}

/** Cross-tab of rows of a level. */
export function tabulate(
  table: AccountTable,
  level: 'targets' | 'placements' | 'campaigns',
  pieces: Iterable<Piece>,
  cut: Cut,
): CrossTab {
  const months = new Set<string>();
  const nameOf = (dimension: Dimension, { row, times: at }: Piece): string => {
    const read = (ref: string) => String(table.reader(level, ref)(row) ?? '(none)');
    switch (dimension) {
      case 'weekday':
        return weekdays[Number(at.weekday) - 1]!;
      case 'hour':
        return hours[Number(at.hour)]!;
      case 'month':
        months.add(at.month!);
        return at.month!;
      case 'automatic_mode':
        return read('target_kind') === 'automatic' ? read('target') : '(not automatic)';
      case 'name_part':
        return namePart(read('campaign'), cut.separator, cut.part);
      case 'ad_group_part':
        return namePart(read('ad_group'), cut.separator, cut.part);
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
    dimension === 'weekday'
      ? weekdays
      : dimension === 'hour'
        ? hours
        : dimension === 'month'
          ? [...months].sort()
          : null;
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
    yield { row, times: {}, figures: [impressions, clicks, spend, orders, units, sales] };
  }
}
