import { isPlacementKey } from '../../core/placements/lines.ts';
import type { NewLine } from '../changes/lines.queries.ts';

/**
 * Lines of which a bid is set twice, by its own finding and by its campaign's placements: both are meant, so the first
 * gets the factor of the second, which goes. What is wanted of a bid is theta x RPC / M, and M is what moves (domain,
 * sections 6.3 and 8).
 */
export function joined(rows: readonly NewLine[], step: number): NewLine[] {
  const factors = new Map<string, number>();
  for (const row of rows)
    if (isPlacementLine(row) && isAmount(row))
      factors.set(row.conflict_key, Number(row.new_value) / Number(row.old_value));
  const own = new Set(rows.flatMap((row) => (isPlacementLine(row) ? [] : [row.conflict_key])));
  return rows.flatMap((row) => {
    const factor = factors.get(row.conflict_key);
    if (factor === undefined) return [row];
    if (isPlacementLine(row)) return own.has(row.conflict_key) ? [] : [row];
    if (!isAmount(row)) return [row];
    const bid = Math.max(step, Math.round((Number(row.new_value) * factor) / step) * step);
    return [{ ...row, new_value: String(bid) }];
  });
}

const isPlacementLine = ({ finding_key: key }: NewLine): boolean => key !== null && isPlacementKey(key);
const isAmount = ({ field, old_value: old }: NewLine): boolean =>
  (field === 'bid' || field === 'default_bid') && Number(old) > 0;
