import type { LineDraft } from '../../core/changes/lines.ts';
import { wordsOfKey } from '../../core/round/queue.ts';
import { repairsOf } from '../terms/matching.ts';
import { phraseDrafts } from '../terms/words.ts';
import { limitsOf } from '../account/limits.ts';
import { linesOf, type Adjustment } from '../../core/round/lines.ts';
import { randomUUID } from 'node:crypto';
import type { Window } from '../../core/metrics/days.ts';
import { money } from '../../core/metrics/format.ts';
import { sentenceOf } from '../../core/round/explain.ts';
import type { Finding } from '../../core/round/types.ts';
import { getAccount } from '../account/account.ts';
import { db, type Transaction } from '../db/connection.ts';
import type { Narrowing } from '../../core/routines/narrow.ts';
import { notFound, ServiceError } from '../errors.ts';
import type { StructureFinding } from '../../core/structure/types.ts';
import { findingsOf, structureFindings } from './findings.ts';
import { placementDraftsOf, placementRows } from '../placements/index.ts';
import { budgetDraftsOf, budgetRowsOf } from '../budgets/index.ts';
import { campaignOfBudgetKey, isBudgetKey } from '../../core/budgets/lines.ts';
import { campaignOfKey, isPlacementKey } from '../../core/placements/lines.ts';
import { campaignOfHoursKey, isHoursKey } from '../../core/hours/lines.ts';
import { hoursFound, scheduleDraftsOf } from '../hours/index.ts';
import { chosenStructure, isStructure, structureDrafts } from './structure.ts';
import { addLines, withOpenSheet, type Accepted } from '../changes/open.ts';
import { joined } from '../changes/joined.ts';
import type { NewLine } from '../changes/lines.queries.ts';
import { rowOf } from '../changes/rows.ts';

function checkAdjustment(
  finding: Finding,
  adjustment: Adjustment,
  limits: ReturnType<typeof limitsOf>,
): void {
  if (adjustment.bid === undefined) return;
  const { minimumBid, maximumBid, step } = limits.guards;
  const place = { field: 'bid' };
  if (adjustment.bid < minimumBid) {
    const message = `${finding.subject}: ${money(adjustment.bid)} is below the marketplace’s least bid of ${money(minimumBid)}; it would never be shown.`;
    throw new ServiceError(422, 'bid_below_minimum', message, place);
  }
  if (adjustment.bid > maximumBid) {
    const message = `${finding.subject}: ${money(adjustment.bid)} is above the marketplace’s highest bid of ${money(maximumBid)}.`;
    throw new ServiceError(422, 'bid_above_maximum', message, place);
  }
  if (adjustment.bid % step !== 0) {
    throw new ServiceError(422, 'bid_step', `${finding.subject}: bids go in steps of ${money(step)}.`, place);
  }
}

/** What a cooldown holds is only taken by somebody who confirms it, or chooses another way out. */
async function checkHeld(
  accountId: number,
  window: Window,
  keys: readonly string[],
  adjustments: Record<string, Adjustment>,
): Promise<void> {
  const unconfirmed = keys.filter((key) => {
    const { beyond, way } = adjustments[key] ?? {};
    return beyond !== true && way === undefined;
  });
  const placements = unconfirmed.filter(isPlacementKey).map(campaignOfKey);
  const budgets = unconfirmed.filter(isBudgetKey).map(campaignOfBudgetKey);
  const hours = unconfirmed.filter(isHoursKey).map(campaignOfHoursKey);
  const rows = [
    ...(placements.length > 0 ? await placementRows(accountId, window) : []).filter((row) =>
      placements.includes(row.campaignId),
    ),
    ...(budgets.length > 0 ? await budgetRowsOf(accountId, window) : []).filter((row) =>
      budgets.includes(row.campaignId),
    ),
    ...(hours.length > 0 ? (await hoursFound(accountId, window)).rows : []).filter((row) =>
      hours.includes(row.campaignId),
    ),
  ];
  const held = rows.find(({ isHeld }) => isHeld);
  if (!held) return;
  const message = `“${held.name}” is held by cooldown: confirm it beyond that guard, or wait for what its last change does.`;
  throw new ServiceError(422, 'held', message, { field: held.campaignId });
}

const isConflict = (key: string): boolean => key.startsWith('conflict:');

/** Who accepts, and what its findings were judged within. */
interface Accepting {
  /** Put in place of Mowing's own name. */
  by?: string;
  narrowing?: Narrowing | null;
}

/** The lines that carry out findings of a window, of any kind. What makes campaigns is written on a sheet at once. */
export async function draftFindings(
  accountId: number,
  window: Window,
  keys: readonly string[],
  adjustments: Record<string, Adjustment>,
  { by = 'Mowing', narrowing = null }: Accepting = {},
): Promise<{
  groups: string[];
  rows: NewLine[];
  step: number;
  /** Adds the lines of what makes campaigns. */
  complete: (tx: Transaction) => Promise<void>;
}> {
  const account = await getAccount(db(), accountId);
  const [byKey, result] = await findingsOf(accountId, window, keys, narrowing);
  const limits = limitsOf(account);
  const names = { adGroup: (id: string) => result.adGroups[id]?.name ?? id };
  const campaignOf = (id: string): string => {
    const adGroup = result.adGroups[id];
    if (!adGroup) throw notFound(`ad group ${id}`);
    return adGroup.campaignId;
  };
  const campaignsOf = (sku: string | null): string[] =>
    Object.values(result.adGroups)
      .filter((adGroup) => adGroup.enabled && adGroup.sku === sku)
      .map(({ campaignId }) => campaignId);
  const groups: string[] = [];
  const rows: NewLine[] = [];
  const put = (key: string, drafts: LineDraft[], adjusted: boolean) => {
    const group = randomUUID();
    groups.push(group);
    const proposed = adjusted ? `${by}, adjusted` : by;
    const about = { sheet_id: 0, group_key: group, finding_key: key, proposed_by: proposed, reverts: null };
    rows.push(...drafts.map((draft) => rowOf(draft, about)));
  };
  const wanted = [...new Set(keys)];
  const structureKeys = wanted.filter(isStructure);
  const structure =
    structureKeys.length === 0
      ? new Map<string, StructureFinding>()
      : chosenStructure(await structureFindings(accountId, window), structureKeys);
  await checkHeld(accountId, window, wanted, adjustments);
  const placements = await placementDraftsOf(
    accountId,
    window,
    wanted.filter(isPlacementKey).map((key) => ({ campaignId: campaignOfKey(key) })),
  );
  const budgets = await budgetDraftsOf(
    accountId,
    window,
    wanted.filter(isBudgetKey).map((key) => ({
      campaignId: campaignOfBudgetKey(key),
      way: adjustments[key]?.way ?? null,
    })),
  );
  const schedules = await scheduleDraftsOf(
    accountId,
    window,
    wanted
      .filter(isHoursKey)
      .map((key) => ({ campaignId: campaignOfHoursKey(key), schedule: null, reason: '' })),
  );
  const repairs = await repairsOf(accountId, window, wanted.filter(isConflict));
  for (const key of wanted) {
    const repair = repairs.get(key);
    const phrase = wordsOfKey(key);
    if (repair) put(key, repair, false);
    if (phrase) {
      const { scope = 'ad_group' } = adjustments[key] ?? {};
      const drafts = await phraseDrafts(accountId, window, phrase.sku, phrase.words, scope);
      put(key, drafts, scope !== 'ad_group');
    }
    const placed = isPlacementKey(key) ? placements.get(campaignOfKey(key)) : undefined;
    if (placed) put(key, placed, false);
    const budget = isBudgetKey(key) ? budgets.get(campaignOfBudgetKey(key)) : undefined;
    if (budget) put(key, budget, adjustments[key]?.way !== undefined);
    const timed = isHoursKey(key) ? schedules.get(campaignOfHoursKey(key)) : undefined;
    if (timed) put(key, timed, false);
    if (repair || phrase || placed || budget || timed || structure.has(key)) continue;
    const finding = byKey.get(key);
    if (!finding) {
      const message =
        'A finding is not there any more: the figures or goals have changed. Load the round again.';
      throw new ServiceError(409, 'finding_gone', message, { field: key });
    }
    const adjustment = adjustments[key] ?? {};
    checkAdjustment(finding, adjustment, limits);
    const drafts = linesOf(finding, adjustment, sentenceOf(finding, names), { campaignOf, campaignsOf });
    if (drafts.length === 0) {
      throw new ServiceError(422, 'nothing_proposed', `“${finding.subject}” has no proposal to accept.`, {
        field: key,
      });
    }
    put(key, drafts, Object.keys(adjustment).length > 0);
  }
  return {
    groups,
    rows,
    step: limits.guards.step,
    // What a repair makes has its number once it is put down.
    complete: async (tx) => {
      for (const [key, finding] of structure) put(key, await structureDrafts(tx, accountId, finding), false);
    },
  };
}

/** Accepts findings of a window, of any kind: their lines go onto the open sheet, all or none. */
export async function acceptFindings(
  accountId: number,
  window: Window,
  keys: string[],
  adjustments: Record<string, Adjustment>,
  accepting: Accepting = {},
): Promise<Accepted> {
  const { groups, rows, step, complete } = await draftFindings(
    accountId,
    window,
    keys,
    adjustments,
    accepting,
  );
  const made = await withOpenSheet(accountId, async (tx, sheetId) => {
    await complete(tx);
    return addLines(tx, accountId, sheetId, joined(rows, step));
  });
  return { groups, lines: made.length };
}
