import { acos, type Sums } from '../../core/metrics/figures.ts';
import { count, money, percent } from '../../core/metrics/format.ts';
import type { ListColumn } from './ListTable.tsx';

type ListSums = Pick<Sums, 'clicks' | 'spend' | 'orders' | 'sales'>;

const figures = {
  clicks: { label: 'Clicks', value: (sums: ListSums) => sums.clicks, text: count, width: '54px' },
  spend: { label: 'Spend', value: (sums: ListSums) => sums.spend, text: money, width: '66px' },
  orders: { label: 'Orders', value: (sums: ListSums) => sums.orders, text: count, width: '54px' },
  sales: { label: 'Sales', value: (sums: ListSums) => sums.sales, text: money, width: '70px' },
  acos: { label: 'ACOS', value: acos, text: (value: number) => percent(value), width: '64px' },
} as const;

export type SumName = keyof typeof figures;

/** Columns of figures that every list writes, sorts and explains alike. `of`: the sums of a row; null and it says so. */
export const sumColumns = <Row,>(
  names: readonly SumName[],
  of: (row: Row) => ListSums | null,
  sorts = true,
): ListColumn<Row>[] =>
  names.map((name) => {
    const { label, value, text, width } = figures[name];
    return {
      id: name,
      label,
      width,
      isNumber: true,
      sorts,
      explains: name,
      value: (row) => {
        const sums = of(row);
        return sums && value(sums);
      },
      text,
      cell: (row) => {
        const sums = of(row);
        if (sums === null) return '–';
        if (name !== 'acos') return text(value(sums) ?? 0);
        return (
          <span className={sums.sales === 0 && sums.spend > 0 ? 'over' : ''}>{percent(acos(sums))}</span>
        );
      },
    };
  });
