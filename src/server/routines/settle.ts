import type { Effect } from '../../core/effect/types.ts';
import type { Allowance, Held } from '../../core/routines/choose.ts';
import { clashes, touchOf } from '../../core/trials/trials.ts';
import type { NewLine } from '../changes/lines.queries.ts';
import { unusualClicks } from '../changes/unusual.queries.ts';
import type { Transaction } from '../db/connection.ts';
import type { triedTouches } from '../trials/index.ts';
import type { Offered } from '../../core/routines/candidate.ts';
import { standing, type Standing } from './held.queries.ts';
import type { KeptRoutine } from './queries.ts';

/** What of a run's findings goes through beside what others set, and within its limits. */

/** A finding with the lines that carry it out; null: nothing stands against it. */
export interface Found {
  offered: Offered;
  held: Held | null;
  lines: NewLine[];
}

export interface Settled {
  found: Found[];
  /** What routines of a lower rank hold of the same: it gives way. */
  giving: Standing[];
  isRunaway: boolean;
}

export const spendOf = (lines: readonly NewLine[]): number =>
  lines.reduce((sum, { effect }) => sum + Math.abs(effect?.spend ?? 0), 0);

export const effectOf = (lines: readonly NewLine[]): Effect | null =>
  lines.find(({ effect }) => effect !== null)?.effect ?? null;

/** What is tried stays as it is until somebody has decided. */
export function inTrial(
  lines: readonly NewLine[],
  tried: Awaited<ReturnType<typeof triedTouches>>,
): Held | null {
  const mine = lines.map((line) =>
    touchOf({
      action: line.action,
      entity: line.entity,
      campaignId: line.campaign_id,
      adGroupId: line.ad_group_id,
      objectId: line.object_id,
    }),
  );
  const trial = tried.find(({ touch }) => mine.some((one) => clashes(one, touch)));
  return trial
    ? { by: 'trial', why: `The trial “${trial.name}” touches it: nothing moves until it is decided.` }
    : null;
}

/** Lets through what nothing else sets and limits allow, in the order of worth; says of the others why not. */
export async function settle(
  tx: Transaction,
  accountId: number,
  { rank }: Pick<KeptRoutine, 'rank'>,
  open: Found[],
  allowance: Allowance,
): Promise<Settled> {
  const keys = open.flatMap(({ lines }) => lines.map(({ conflict_key: key }) => key));
  const others = new Map<string, Standing[]>();
  for (const one of await standing(tx, accountId, keys))
    others.set(one.conflictKey, [...(others.get(one.conflictKey) ?? []), one]);
  const mine = new Set<string>();
  const found: Found[] = [];
  const giving: Standing[] = [];
  for (const one of open) {
    if (one.lines.length === 0) {
      one.held = { by: 'gone', why: 'Nothing of it is left to do: it stands like that already.' };
      continue;
    }
    const rivals = one.lines.flatMap(({ conflict_key: key }) => others.get(key) ?? []);
    one.held =
      rivalled(rivals, rank, one.lines, mine) ??
      allowance.take({ lines: one.lines.length, spend: spendOf(one.lines) });
    if (one.held) continue;
    giving.push(...rivals);
    for (const { conflict_key: key } of one.lines) mine.add(key);
    found.push(one);
  }
  return { found, giving, isRunaway: allowance.isRunaway };
}

/** Who sets the same already, where that one goes first. */
function rivalled(
  rivals: readonly Standing[],
  rank: number,
  lines: readonly NewLine[],
  mine: ReadonlySet<string>,
): Held | null {
  const person = rivals.find((one) => one.rank === null);
  if (person) return { by: 'person', why: 'The same stands on a person’s sheet.' };
  const first = rivals.find((one) => one.rank! <= rank || one.state === 'sending');
  if (first) return { by: 'other_routine', why: `“${first.routine}” sets the same, and goes first.` };
  return lines.some(({ conflict_key: key }) => mine.has(key))
    ? { by: 'other_routine', why: 'Another finding of this run, worth more, sets the same.' }
    : null;
}

/** Clicks that may cost over twice their bid are for a person to mean: their campaigns are left. */
export async function leaveUnusual(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  found: readonly Found[],
): Promise<boolean> {
  const unusual = new Set(
    (await unusualClicks(tx, accountId, sheetId)).map(({ campaignId }) => String(campaignId)),
  );
  if (unusual.size === 0) return false;
  const groups: string[] = [];
  for (const one of found) {
    if (!one.lines.some(({ campaign_id: id }) => unusual.has(id))) continue;
    one.held = {
      by: 'unusual_click',
      why: 'A click may cost over twice its bid then: a person must mean that.',
    };
    groups.push(one.lines[0]!.group_key);
  }
  await tx`
    update line set state = 'removed'
    where account_id = ${accountId} and sheet_id = ${sheetId} and group_key = any(${groups}::text[])`;
  return true;
}
