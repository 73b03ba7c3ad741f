import {
  acos,
  cpc,
  ctr,
  cvr,
  gainAgainstTarget,
  revenuePerClick,
  roas,
  type Sums,
} from '../metrics/figures.ts';
import type { ColumnKind } from './columns.ts';

/**
 * A cross-tab: cells are sums of what falls into a row and a column; ratios are worked out from the sums of a cell at
 * the very end, never from other ratios.
 */

export interface Cell extends Sums {
  /** target ACOS x sales - spend, summed where goals differ. */
  gain: number;
}

export interface CrossTab {
  rows: string[];
  columns: string[];
  /** By row, then by column; null where nothing fell. */
  cells: (Cell | null)[][];
  rowTotals: Cell[];
  columnTotals: Cell[];
  total: Cell;
}

const emptyCell = (): Cell => ({
  impressions: 0,
  clicks: 0,
  spend: 0,
  orders: 0,
  units: 0,
  sales: 0,
  gain: 0,
});

function addTo(cell: Cell, more: Sums, gain: number): void {
  cell.impressions += more.impressions;
  cell.clicks += more.clicks;
  cell.spend += more.spend;
  cell.orders += more.orders;
  cell.units += more.units;
  cell.sales += more.sales;
  cell.gain += gain;
}

/** What one fact adds: where it falls, its sums, and the goal it is measured by. */
export interface Fact {
  row: string;
  column: string;
  sums: Sums;
  targetAcos: number;
}

/** Weekdays and months stand in the order of the calendar, everything else by its spend. */
export function crossTab(
  facts: Iterable<Fact>,
  order: { rows?: string[]; columns?: string[] } = {},
): CrossTab {
  const cells = new Map<string, Map<string, Cell>>();
  const rowTotals = new Map<string, Cell>();
  const columnTotals = new Map<string, Cell>();
  const total = emptyCell();
  const get = <V>(map: Map<string, V>, key: string, make: () => V): V => {
    let value = map.get(key);
    if (value === undefined) map.set(key, (value = make()));
    return value;
  };
  for (const { row, column, sums, targetAcos } of facts) {
    const gain = gainAgainstTarget(sums, targetAcos);
    const line = get(cells, row, () => new Map<string, Cell>());
    addTo(get(line, column, emptyCell), sums, gain);
    addTo(get(rowTotals, row, emptyCell), sums, gain);
    addTo(get(columnTotals, column, emptyCell), sums, gain);
    addTo(total, sums, gain);
  }
  const inOrder = (totals: Map<string, Cell>, wanted?: string[]): string[] =>
    [...totals.keys()].sort((a, b) =>
      wanted
        ? wanted.indexOf(a) - wanted.indexOf(b)
        : totals.get(b)!.spend - totals.get(a)!.spend || (a < b ? -1 : 1),
    );
  const rows = inOrder(rowTotals, order.rows);
  const columns = inOrder(columnTotals, order.columns);
  return {
    rows,
    columns,
    cells: rows.map((row) => columns.map((column) => cells.get(row)?.get(column) ?? null)),
    rowTotals: rows.map((row) => rowTotals.get(row)!),
    columnTotals: columns.map((column) => columnTotals.get(column)!),
    total,
  };
}

/**
 * How far a cell lies from its goal, -1 (far under) to 1 (far over, or spend without sales): the shade of its ground.
 * The goal of a cell is what its facts were measured by: (gain + spend) / sales.
 */
export function distanceFromGoal(cell: Cell): number {
  const ratio = acos(cell);
  if (ratio === null) return 0;
  if (!Number.isFinite(ratio)) return 1;
  const goal = (cell.gain + cell.spend) / cell.sales;
  if (goal <= 0) return 1;
  return Math.max(-1, Math.min(1, Math.log2(ratio / goal) / 1.5));
}

/**
 * One part of a name that is split: "Lids exact | top" by "|" has the parts "Lids exact" and "top".
 * @example namePart('Lids exact | top', '|', 1) // 'top'
 * @example namePart('Lids', '|', 1) // '(none)'
 */
export const namePart = (name: string, separator: string, part: number): string =>
  (separator === '' ? name.split(/\s+/) : name.split(separator))[part]?.trim() || '(none)';

interface Figure {
  label: string;
  kind: ColumnKind;
  of: (cell: Cell) => number | null;
}

/** What a cell can be asked for, worked out from its sums alone. */
export const cellFigures = {
  acos: { label: 'ACOS', kind: 'share', of: acos },
  spend: { label: 'Spend', kind: 'money', of: (cell) => cell.spend },
  sales: { label: 'Sales', kind: 'money', of: (cell) => cell.sales },
  orders: { label: 'Orders', kind: 'count', of: (cell) => cell.orders },
  clicks: { label: 'Clicks', kind: 'count', of: (cell) => cell.clicks },
  impressions: { label: 'Impressions', kind: 'count', of: (cell) => cell.impressions },
  gain: { label: 'Gain against goal', kind: 'money', of: (cell) => cell.gain },
  cvr: { label: 'CVR', kind: 'share', of: cvr },
  ctr: { label: 'CTR', kind: 'share', of: ctr },
  cpc: { label: 'CPC', kind: 'money', of: cpc },
  rpc: { label: 'RPC', kind: 'money', of: revenuePerClick },
  roas: { label: 'ROAS', kind: 'number', of: roas },
} as const satisfies Record<string, Figure>;
export type CellFigure = keyof typeof cellFigures;
