import { textOf, type Values } from '../files/read.ts';
import { copyText } from '../../db/copy.ts';

/** Names met in a file: each gets a number when it is first met. */
export class Names {
  private readonly numbers = new Map<string, number>();

  get size(): number {
    return this.numbers.size;
  }

  /** The number of a name, and whether it is met for the first time. */
  numberOf(name: string): { number: number; isNew: boolean } {
    const known = this.numbers.get(name);
    if (known !== undefined) return { number: known, isNew: false };
    const number = this.numbers.size;
    // A part of a larger text keeps all of it in memory: the name is copied.
    this.numbers.set(Buffer.from(name).toString(), number);
    return { number, isNew: true };
  }
}

/** Columns that say which target a row is about; the later, the more they tell. */
export const targetColumns = [
  'campaign_kind',
  'target_kind',
  'match_type',
  'campaign',
  'campaign_id',
  'ad_group',
  'ad_group_id',
  'target',
  'target_id',
];

/** Who a target is, by its id or else its path, and how it is staged after its number. */
export function targetLine(values: Values): { key: string; line: () => string } {
  const matchType = textOf(values.match_type)?.toLowerCase() ?? null;
  const kind = textOf(values.target_kind)?.toLowerCase() ?? (matchType === null ? 'automatic' : 'keyword');
  const id = textOf(values.target_id);
  const key =
    id ??
    `${values.campaign_id ?? values.campaign}\t${values.ad_group_id ?? values.ad_group}\t${values.target}\t${kind}\t${matchType}`;
  const line = () =>
    [
      textOf(values.campaign),
      textOf(values.campaign_id),
      textOf(values.campaign_kind)?.toLowerCase() ?? null,
      textOf(values.ad_group),
      textOf(values.ad_group_id),
      textOf(values.target),
      id,
      kind,
      matchType,
    ]
      .map(copyText)
      .join('\t');
  return { key, line };
}
