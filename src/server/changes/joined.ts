import { isBudgetKey } from '../../core/budgets/lines.ts';
import { isPlacementKey } from '../../core/placements/lines.ts';
import type { NewLine } from '../changes/lines.queries.ts';

/**
 * Lines of which a bid is set twice: by its own finding, and by its campaign's placements or budget. All are meant, so one
 * line stands for them. Placements: the bid gets their factor too, since what is wanted of it is theta x RPC / M, and M is
 * what moves (domain, sections 6.3 and 8). A budget: the lowest of the bids, for it asks no more than that money lasts.
 */
export function joined(rows: readonly NewLine[], step: number): NewLine[] {
  const budgets = new Map<string, number>();
  const factors = new Map<string, number>();
  for (const row of rows) {
    if (!isAmount(row)) continue;
    if (isOf(isPlacementKey, row))
      factors.set(row.conflict_key, Number(row.new_value) / Number(row.old_value));
    if (isOf(isBudgetKey, row)) budgets.set(row.conflict_key, Number(row.new_value));
  }
  const own = new Set(
    rows.flatMap((row) => (isOf(isPlacementKey, row) || isOf(isBudgetKey, row) ? [] : [row.conflict_key])),
  );
  const kept = rows.flatMap((row) => {
    const key = row.conflict_key;
    const factor = factors.get(key);
    const lasting = budgets.get(key);
    if (!isAmount(row) || (factor === undefined && lasting === undefined)) return [row];
    // The bid's own line stands for all of them, else that of the budget.
    if (isOf(isPlacementKey, row) && (own.has(key) || lasting !== undefined)) return [];
    if (isOf(isBudgetKey, row) && own.has(key)) return [];
    const lowest = Math.min(Number(row.new_value), lasting ?? Infinity);
    const isFactored = isOf(isPlacementKey, row) || factor === undefined;
    const bid = Math.max(step, Math.round((lowest * (isFactored ? 1 : factor)) / step) * step);
    return [{ ...row, new_value: String(bid) }];
  });
  return withEffects(kept, rows);
}

/** One line of a finding carries what all of it does: where that one is left out, the next of the finding does. */
function withEffects(kept: readonly NewLine[], rows: readonly NewLine[]): NewLine[] {
  const carried = new Set(kept.flatMap(({ harvest, effect }) => (harvest && effect ? [harvest] : [])));
  const left = new Map(
    rows.flatMap(({ harvest, effect }) =>
      harvest && effect && !carried.has(harvest) ? [[harvest, effect] as const] : [],
    ),
  );
  return kept.map((row) => {
    const effect = row.harvest ? left.get(row.harvest) : undefined;
    if (!effect) return row;
    left.delete(row.harvest!);
    return { ...row, effect };
  });
}

const isOf = (isKey: (key: string) => boolean, { finding_key: key }: NewLine): boolean =>
  key !== null && isKey(key);
const isAmount = ({ field, old_value: old }: NewLine): boolean =>
  (field === 'bid' || field === 'default_bid') && Number(old) > 0;
