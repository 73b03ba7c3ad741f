import { savedLanes } from '../account/lanes.queries.ts';
import { stringify } from 'csv-stringify/sync';
import { laneProblems, mostLaneDays, type Lane } from '../../core/lanes/lanes.ts';
import { proposeLanes } from '../../core/lanes/propose.ts';
import { micros, units } from '../../core/metrics/money.ts';
import { db } from '../db/connection.ts';
import { plainRows, type RowProblem } from '../imports/files/plain.ts';
import { laneGround } from './lanes.ts';
import { type LaneAdGroupRow } from './queries.ts';

/** Lanes as CSV: ends by the marketplace's id where there is one, and by the path of names. */

const columns = [
  'campaign',
  'ad_group',
  'ad_group_id',
  'to_campaign',
  'to_ad_group',
  'to_ad_group_id',
  'kind',
  'match_type',
  'least_orders',
  'least_clicks',
  'goal_share',
  'days',
  'first_bid',
  'fixed_bid',
  'isolate',
] as const;
type Row = Partial<Record<(typeof columns)[number], string>>;

/** The lanes in force as CSV. */
export async function lanesCsv(accountId: number): Promise<string> {
  const { rows, adGroups } = await laneGround(accountId);
  const lanes = (await savedLanes(db(), accountId)) ?? proposeLanes(adGroups.values());
  const byId = new Map(rows.map((row) => [row.id, row]));
  const lines = lanes.map((lane) => {
    const [from, to] = [byId.get(lane.source), byId.get(lane.destination)];
    return {
      campaign: from?.campaign,
      ad_group: from?.name,
      ad_group_id: from?.ext_id,
      to_campaign: to?.campaign,
      to_ad_group: to?.name,
      to_ad_group_id: to?.ext_id,
      kind: lane.kind,
      match_type: lane.matchType,
      least_orders: lane.leastOrders,
      least_clicks: lane.leastClicks,
      goal_share: lane.goalShare,
      days: lane.days,
      first_bid: lane.firstBid,
      fixed_bid: lane.fixedBid === null ? null : units(lane.fixedBid),
      isolate: lane.isolate,
    };
  });
  return stringify(lines, { header: true, columns: [...columns], escape_formulas: true });
}

export interface ReadLanes {
  lanes: Lane[];
  problems: RowProblem[];
}

const mostRows = 20_000;

/** Reads a file of lanes and checks each row; nothing is saved. */
export async function readLanesCsv(accountId: number, bytes: Uint8Array): Promise<ReadLanes> {
  const { rows: known, adGroups } = await laneGround(accountId);
  const told = plainRows<(typeof columns)[number]>(bytes, {
    noun: 'lane',
    most: mostRows,
    needs: [
      ['ad_group', 'ad_group_id'],
      ['to_ad_group', 'to_ad_group_id'],
    ],
    hint: 'Export the lanes once to see the columns.',
  });
  const find = adGroupFinder(known);
  const lanes: Lane[] = [];
  const lines: number[] = [];
  const problems: RowProblem[] = [];
  for (const { record, line } of told) {
    const read = readRow(record, find);
    if ('column' in read) problems.push({ row: line, ...read });
    else {
      lanes.push(read);
      lines.push(line);
    }
  }
  for (const [at, { field, message }] of laneProblems(lanes, adGroups)) {
    problems.push({ row: lines[at]!, column: columnOf[field], message });
  }
  const bad = new Set(problems.map(({ row }) => row));
  problems.sort((a, b) => a.row - b.row);
  return { lanes: lanes.filter((_, at) => !bad.has(lines[at]!)), problems };
}

const columnOf: Record<keyof Lane, string> = {
  source: 'ad_group',
  destination: 'to_ad_group',
  kind: 'kind',
  matchType: 'match_type',
  leastOrders: 'least_orders',
  leastClicks: 'least_clicks',
  goalShare: 'goal_share',
  days: 'days',
  firstBid: 'first_bid',
  fixedBid: 'fixed_bid',
  isolate: 'isolate',
};

type Find = (id: string | undefined, campaign: string | undefined, name: string | undefined) => string | null;

/** Finds ad groups by the marketplace's id, else by campaign and name, else by a name that only one has. */
function adGroupFinder(rows: readonly LaneAdGroupRow[]): Find {
  const low = (text: string) => text.trim().toLowerCase();
  const byExt = new Map(rows.flatMap((row) => (row.ext_id ? [[row.ext_id, row.id] as const] : [])));
  const byPath = new Map(rows.map((row) => [`${low(row.campaign)}\t${low(row.name)}`, row.id]));
  const byName = new Map<string, string | null>();
  for (const row of rows) byName.set(low(row.name), byName.has(low(row.name)) ? null : row.id);
  return (id, campaign, name) =>
    (id && byExt.get(id)) ||
    (name && campaign && byPath.get(`${low(campaign)}\t${low(name)}`)) ||
    (name && !campaign && byName.get(low(name))) ||
    null;
}

/** One row as a lane; what it leaves out a new lane would have. */
function readRow(row: Row, find: Find): Lane | Omit<RowProblem, 'row'> {
  const bad = (column: string, message: string) => ({ column, message });
  const source = find(row.ad_group_id, row.campaign, row.ad_group);
  if (!source) return bad('ad_group', `No ad group “${row.ad_group ?? row.ad_group_id ?? ''}” is known.`);
  const destination = find(row.to_ad_group_id, row.to_campaign, row.to_ad_group);
  if (!destination)
    return bad('to_ad_group', `No ad group “${row.to_ad_group ?? row.to_ad_group_id ?? ''}” is known.`);
  const oneOf = <T extends string>(value: string | undefined, options: readonly T[], usual: T): T | null =>
    value === undefined || value === ''
      ? usual
      : (options.find((option) => option === value.toLowerCase()) ?? null);
  const kind = oneOf(row.kind, ['keyword', 'item'] as const, 'keyword');
  if (!kind) return bad('kind', `“${row.kind}” is neither keyword nor item.`);
  const matchType =
    kind === 'item' ? null : oneOf(row.match_type, ['broad', 'phrase', 'exact'] as const, 'exact');
  if (kind === 'keyword' && !matchType) return bad('match_type', `“${row.match_type}” is no match type.`);
  const firstBid = oneOf(row.first_bid, ['evidence', 'source_cpc', 'fixed'] as const, 'evidence');
  if (!firstBid) return bad('first_bid', `“${row.first_bid}” is none of evidence, source_cpc, fixed.`);
  const isolate = oneOf(row.isolate, ['product', 'source', 'none'] as const, 'product');
  if (!isolate) return bad('isolate', `“${row.isolate}” is none of product, source, none.`);
  const number = (name: keyof Row, usual: number, least: number, most: number): number | null => {
    const text = row[name];
    if (text === undefined || text === '') return usual;
    const value = Number(text.replace(',', '.'));
    return Number.isFinite(value) && value >= least && value <= most ? value : null;
  };
  const leastOrders = number('least_orders', 1, 0, 10_000);
  if (leastOrders === null) return bad('least_orders', `“${row.least_orders}” is no number of orders.`);
  const leastClicks = number('least_clicks', 0, 0, 100_000);
  if (leastClicks === null) return bad('least_clicks', `“${row.least_clicks}” is no number of clicks.`);
  const goalShare = number('goal_share', 1, 0.01, 10);
  if (goalShare === null) return bad('goal_share', `“${row.goal_share}” is no share between 0.01 and 10.`);
  const days = number('days', mostLaneDays, 1, mostLaneDays);
  if (days === null) return bad('days', `“${row.days}” is no number of days between 1 and ${mostLaneDays}.`);
  const fixedBid = number('fixed_bid', 0, 0.01, 1000);
  if (fixedBid === null || (firstBid === 'fixed' && fixedBid === 0))
    return bad('fixed_bid', `“${row.fixed_bid ?? ''}” is no bid.`);
  return {
    source,
    destination,
    kind,
    matchType,
    leastOrders: Math.round(leastOrders),
    leastClicks: Math.round(leastClicks),
    goalShare,
    days: Math.round(days),
    firstBid,
    fixedBid: firstBid === 'fixed' ? micros(fixedBid) : null,
    isolate,
  };
}
