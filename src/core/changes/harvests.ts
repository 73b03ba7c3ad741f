/** What tells which harvest a line belongs to. */
export interface HarvestLine {
  group_key: string;
  action: string;
  entity: string;
  expression: string | null;
}

/** Lines of one group and one text are one harvest when one of them creates a target; the key of each such group. */
export const harvestKey = ({ group_key, expression }: HarvestLine): string =>
  `${group_key}\t${(expression ?? '').toLowerCase()}`;

/** Keys of all harvests among some lines that are more than the created target alone. */
export function harvestKeys(lines: readonly HarvestLine[]): Set<string> {
  const counts = new Map<string, number>();
  for (const line of lines) counts.set(harvestKey(line), (counts.get(harvestKey(line)) ?? 0) + 1);
  return new Set(
    lines
      .filter(({ action, entity }) => action === 'create' && entity === 'target')
      .map(harvestKey)
      .filter((key) => counts.get(key)! > 1),
  );
}
