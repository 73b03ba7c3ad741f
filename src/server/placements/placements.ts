import { LRUCache } from 'lru-cache';
import type { PlacementsAnswer } from '../../answers/spend.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import { fieldOf, valueProblem } from '../../core/changes/fields.ts';
import type { Window } from '../../core/metrics/days.ts';
import type { PlacedRow } from '../../core/placements/findings.ts';
import { unusual, unusualFactor } from '../../core/placements/effective.ts';
import type { StreamName } from '../../core/placements/streams.ts';
import { placementName, strategyName } from '../../core/placements/names.ts';
import { getAccount, settling } from '../account/account.ts';
import { fieldLimitsOf } from '../account/limits.ts';
import { db } from '../db/connection.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { placementsOf } from '../engine/link.ts';
import type { PlacementLimits, PlacementOrder } from '../engine/placements.ts';
import { ServiceError } from '../errors.ts';
import { openBids, openStrategies } from '../changes/lines.queries.ts';
import { addDrafts, type Accepted } from '../changes/open.ts';

/** Campaigns by placement as JSON, from memory when nothing changed. */
const kept = new LRUCache<string, Promise<string | null>>({ max: 24 });

async function aboutOf(accountId: number): Promise<PlacementLimits> {
  const account = await getAccount(db(), accountId);
  const { curve } = await settling(db(), account);
  return { curve, maximumModifier: fieldLimitsOf(account).maximumModifier };
}

async function rowsText(accountId: number, window: Window): Promise<string> {
  const edition = await editionOf(accountId);
  const key = [accountId, edition.version, window.from, window.to].join('|');
  let pending = kept.get(key);
  if (!pending) {
    pending = aboutOf(accountId).then((about) => placementsOf().rows(edition, window, about));
    kept.set(key, pending);
    pending.catch(() => kept.delete(key));
  }
  const found = await pending;
  if (found === null) throw noFigures();
  return found;
}

/** Every campaign that runs and was clicked, by placement. */
export const placementRows = async (accountId: number, window: Window): Promise<PlacedRow[]> =>
  JSON.parse(await rowsText(accountId, window)) as PlacedRow[];

/** The same as JSON (`PlacementsAnswer`), with what the marketplace allows. */
export async function placementsAnswer(accountId: number, window: Window): Promise<string> {
  const { maximumModifier } = await aboutOf(accountId);
  const [{ placements, budgets, hours, bids }, strategiesOnSheet] = await Promise.all([
    openBids(db(), accountId),
    openStrategies(db(), accountId),
  ]);
  const head: Omit<PlacementsAnswer, 'campaigns'> = {
    maximumModifier,
    onSheet: [...placements],
    bidsOnSheet: [...bids, ...budgets, ...hours],
    strategiesOnSheet,
  };
  return `${JSON.stringify(head).slice(0, -1)},"campaigns":${await rowsText(accountId, window)}}`;
}

/** The lines of findings by their campaigns; one that has none any more is told. */
export async function placementDraftsOf(
  accountId: number,
  window: Window,
  orders: readonly PlacementOrder[],
): Promise<Map<string, LineDraft[]>> {
  if (orders.length === 0) return new Map();
  const drafts = new Map(
    await placementsOf().drafts(await editionOf(accountId), window, await aboutOf(accountId), orders),
  );
  const gone = orders.find(({ campaignId }) => !drafts.has(campaignId));
  if (gone) {
    const message = 'A finding is not there any more: the account has changed. Load the page again.';
    throw new ServiceError(409, 'finding_gone', message, { field: gone.campaignId });
  }
  return drafts;
}

/** Modifiers and factors on bids as somebody sets them. `confirmed`: what they multiply into is meant. */
export interface HandOrder {
  campaignId: string;
  bids: { stream: StreamName; beta: number }[];
  modifiers: { placement: string; to: number }[];
  confirmed?: boolean;
}

/** Puts modifiers and factors on the bids of a campaign onto the open sheet, as somebody set them: all or none. */
export async function acceptPlacements(
  accountId: number,
  window: Window,
  { confirmed, ...order }: HandOrder,
): Promise<Accepted> {
  const limits = fieldLimitsOf(await getAccount(db(), accountId));
  for (const { placement, to } of order.modifiers) {
    const problem = valueProblem(fieldOf('placement_modifier', placement)!, String(to), limits);
    if (problem)
      throw new ServiceError(422, 'bad_modifier', `${placementName(placement)}: ${problem}`, {
        field: placement,
      });
  }
  const row = (await placementRows(accountId, window)).find(
    ({ campaignId }) => campaignId === order.campaignId,
  );
  if (!row) {
    const message = 'The campaign is not there any more, or does not run. Load the page again.';
    throw new ServiceError(409, 'campaign_gone', message, { field: 'campaignId' });
  }
  const now = new Map(row.placements.map((one) => [one.placement, one]));
  const unknown = order.modifiers.find(({ placement }) => !now.has(placement));
  if (unknown) {
    const message = `“${unknown.placement}” is no placement of ${row.name}.`;
    throw new ServiceError(422, 'unknown_placement', message, { field: unknown.placement });
  }
  const betas = new Map(order.bids.map(({ stream, beta }) => [stream, beta]));
  const asked = order.modifiers.flatMap(({ placement, to }) => {
    const { modifier: from, stream } = now.get(placement)!;
    const beta = betas.get(stream) ?? betas.get('all') ?? 1;
    return unusual([{ placement, from, to }], row.strategy, beta, row.scheduled);
  });
  if (asked.length > 0 && !confirmed) {
    const message =
      `${asked.map(placementName).join(' and ')}: bid, modifier and strategy (${strategyName(row.strategy)}) would let ` +
      `one click cost more than ${unusualFactor} times its bid. Set it again to confirm that it is meant.`;
    throw new ServiceError(409, 'unusual_bid', message, { field: asked[0]! });
  }
  const drafts = (await placementDraftsOf(accountId, window, [order])).get(order.campaignId)!;
  if (drafts.length === 0)
    throw new ServiceError(422, 'nothing_to_change', 'Modifiers and bids stand like that already.');
  const reason = 'Modifiers and bids of the campaign, set by hand.';
  return addDrafts(
    accountId,
    drafts.map((draft) => ({ ...draft, reason })),
    'by hand',
  );
}
