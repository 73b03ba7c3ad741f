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

const creates = ({ action, entity }: HarvestLine): boolean => action === 'create' && entity === 'target';

/** Of each line the key of its harvest, when it has one that is more than the created target alone; else null. */
export function harvestsOf(lines: readonly HarvestLine[]): (string | null)[] {
  const created = new Set<string>();
  const groups = new Set<string>();
  for (const line of lines) {
    if (!creates(line)) continue;
    created.add(harvestKey(line));
    groups.add(line.group_key);
  }
  const counts = new Map<string, number>();
  const keys = lines.map((line) => {
    const key = groups.has(line.group_key) ? harvestKey(line) : null;
    if (key === null || !created.has(key)) return null;
    counts.set(key, (counts.get(key) ?? 0) + 1);
    return key;
  });
  return keys.map((key) => (key !== null && counts.get(key)! > 1 ? key : null));
}
