import { valueText } from '../../core/changes/lines.ts';
import type { SheetLine } from '../../answers/changes.ts';

const negativeNames: Record<string, string> = {
  negative_exact: 'Negative exact',
  negative_phrase: 'Negative phrase',
  negative_item: 'Negative item',
};

/** What a line changes: "Keyword exact", "Negative exact", "Bid of broad keyword". */
export function whatOf(line: SheetLine): string {
  if (line.entity === 'negative') {
    const name = negativeNames[line.match_type ?? ''] ?? 'Negative';
    return line.action === 'archive' ? `Remove ${name.toLowerCase()}` : name;
  }
  if (line.entity === 'campaign') {
    if (line.action === 'archive') return 'Archive campaign';
    return line.field === 'daily_budget' ? 'Daily budget' : 'Status of campaign';
  }
  if (line.entity === 'placement_modifier') return `Modifier, ${line.field.replaceAll('_', ' ')}`;
  const kind =
    line.target_kind === 'keyword' ? `${line.match_type ?? ''} keyword` : `${line.target_kind ?? ''} target`;
  if (line.action === 'create') return `New ${kind}`;
  if (line.action === 'archive') return `Archive ${kind}`;
  return line.field === 'status' ? `Status of ${kind}` : `Bid of ${kind}`;
}

const draft = (line: SheetLine) => ({
  field: line.field,
  oldValue: line.old_value,
  newValue: line.new_value,
});

export const oldText = (line: SheetLine): string => valueText(draft(line), 'old');
export const newText = (line: SheetLine): string => valueText(draft(line), 'new');
