import { nowhere, type QueueRow } from '../round/queue.ts';
import { total } from '../metrics/figures.ts';
import { significant } from '../metrics/format.ts';
import { bidsSaid, sentenceOfPlacements } from './explain.ts';
import { placementKey } from './lines.ts';
import { type PlacedRow } from './findings.ts';
import { placementName } from './names.ts';

/** Modifiers and bids of a campaign as a row of the round; only of one that has a finding, or one that a cooldown holds. */
export function placementQueueRow(row: PlacedRow): QueueRow {
  const { campaignId, name, sku, targetAcos, placements, lines } = row;
  const { bids, modifiers, held, worth } = row.proposal!;
  const best = placements.reduce((a, b) => (b.factor > a.factor ? b : a));
  const lowest = placements.reduce((a, b) => (b.factor < a.factor ? b : a));
  const { clicks, spend, orders, sales } = total(placements.map(({ sums }) => sums));
  return {
    ...nowhere,
    key: placementKey(campaignId),
    queue: 'placements',
    subject: name,
    campaignId,
    sku,
    verdict: 'undecided',
    proposal: {
      kind: 'placements',
      bids: bidsSaid(bids, row.streams.length),
      modifiers: modifiers.filter(({ from, to }) => from !== to),
      held,
      lines,
      sentence: sentenceOfPlacements(row),
      short:
        `a click on ${placementName(best.placement)} sells ${significant(best.factor)} × the mean, ` +
        `on ${placementName(lowest.placement)} ${significant(lowest.factor)} ×`,
    },
    worth,
    interval: null,
    targetAcos,
    sums: { clicks, spend, orders, sales },
    claims: [],
    takes: 0,
  };
}
