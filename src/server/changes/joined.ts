import { isBudgetKey } from '../../core/budgets/lines.ts';
import { isHoursKey } from '../../core/hours/lines.ts';
import { isPlacementKey } from '../../core/placements/lines.ts';
import type { NewLine } from '../changes/lines.queries.ts';

/**
 * Lines of which a bid is set more than once: by its own finding, and by its campaign's placements, schedule or budget. All
 * are meant, so one line stands for them. Placements and schedules: the bid gets their factors too, since what is wanted of
 * it is theta x RPC / M, and M is what moves (domain, sections 6.3, 8 and 10). A budget: the lowest of the bids, for it asks
 * no more than that money lasts.
 */
export function joined(rows: readonly NewLine[], step: number): NewLine[] {
  const bids = new Map<string, NewLine[]>();
  for (const row of rows) {
    if (!isAmount(row)) continue;
    const same = bids.get(row.conflict_key);
    if (same) same.push(row);
    else bids.set(row.conflict_key, [row]);
  }
  const kept = rows.flatMap((row) => {
    const same = isAmount(row) ? bids.get(row.conflict_key)! : [row];
    if (same.length === 1) return [row];
    const factors = same.filter(isFactor);
    const whole = same.filter((one) => !isFactor(one));
    // The bid's own line stands for all of them, else that of the budget, else the first.
    const stands = whole.find((one) => !isOf(isBudgetKey, one)) ?? whole[0] ?? factors[0]!;
    if (factors.length === 0 && whole.every((one) => !isOf(isBudgetKey, one))) return [row];
    if (row !== stands) return [];
    const base = Math.min(
      ...whole.map((one) => Number(one.new_value)),
      ...(whole.length === 0 ? [Number(row.old_value)] : []),
    );
    const factor = factors.reduce((all, one) => (all * Number(one.new_value)) / Number(one.old_value), 1);
    const bid = Math.max(step, Math.round((base * factor) / step) * step);
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
const isFactor = (row: NewLine): boolean => isOf(isPlacementKey, row) || isOf(isHoursKey, row);
const isAmount = ({ field, old_value: old }: NewLine): boolean =>
  (field === 'bid' || field === 'default_bid') && Number(old) > 0;
