import type { Micros } from '../metrics/money.ts';
import { usualPaidPerBid } from '../evidence/present-cpc.ts';
import type { Level, Rows } from '../account/levels.ts';
import { runningOn } from '../account/running.ts';
import type { Guards } from '../bids/guards.ts';
import type { LineDraft } from '../changes/lines.ts';
import { editAmount, editBid, editLane, editNegative, editStatus, type Edit, type Edited } from './edits.ts';
import { Lanes, type Destination } from '../lanes/ad-groups.ts';
import { emptySums, type FrameSums, type Objects } from '../account/store.ts';
import type { AccountTable } from '../explore/table.ts';
import type { Lane } from '../lanes/lanes.ts';
import type { Day } from '../metrics/days.ts';
import { bidEffect } from '../effect/weekly.ts';
import { clamp } from '../metrics/clamp.ts';
import { guardsOf } from '../goals/goals.ts';
import type { Effect } from '../effect/types.ts';
import { whyNoKeyword, type KeywordLimits } from '../terms/match.ts';

/** An edit of rows: of those named, else of all that match. */
export interface EditOrder {
  edit: Edit;
  keys: string[] | null;
  /** Values of single rows, pasted or typed into a cell, by key: micros or per cent. They stand for `edit`'s own. */
  values: Record<string, number> | null;
  keepGuards: boolean;
  guards: Guards;
  /** Lanes as they were saved; null: read from the account. */
  lanes: readonly Lane[] | null;
  limits: KeywordLimits & { itemCode: string; minimumBudget: number; maximumModifier: number };
}

/** What planning reads: the table, its objects, and the sums of the window. */
export interface Ground {
  table: AccountTable;
  objects: Objects;
  frame: FrameSums | null;
  today: Day;
  /** Days of the window. */
  days: number;
}

/** Which field can be edited at which level. */
export const editable: Record<Edit['field'], readonly Level[]> = {
  bid: ['targets'],
  daily_budget: ['campaigns'],
  modifier: ['placements'],
  status: ['campaigns', 'targets', 'negatives'],
  negative: ['terms'],
  lane: ['terms'],
};

/** What an edit does to rows, of which the first `most` are listed; the lines that do it only when they are wanted. */
export function planEdit(
  ground: Ground,
  level: Level,
  rows: Rows,
  order: EditOrder,
  most: number,
  withDrafts: boolean,
): { preview: Preview; drafts: LineDraft[] } {
  const { table, objects } = ground;
  const { edit } = order;
  const lanes =
    edit.field === 'lane'
      ? new Lanes(objects, runningOn(objects, ground.today), order.limits.itemCode, order.lanes)
      : null;
  const edited = lanes ? laneEditor(ground, lanes, order) : editorOf(ground, level, order);
  const preview: Preview = {
    changed: 0,
    unchanged: 0,
    held: {},
    problems: {},
    spend: 0,
    sales: 0,
    rows: [],
  };
  const drafts: LineDraft[] = [];
  const reason = reasonOf(edit, order.keepGuards);
  for (const row of rows) {
    const key = table.key(level, row);
    const result = edited(row, key);
    for (const guard of result.held) preview.held[guard] = (preview.held[guard] ?? 0) + 1;
    if (result.problem !== null)
      preview.problems[result.problem] = (preview.problems[result.problem] ?? 0) + 1;
    if (preview.rows.length < most) {
      preview.rows.push({
        ...result,
        key,
        name: table.nameOf(level, row),
        place: placeOf(ground, level, row),
      });
    }
    if (result.next === null) {
      preview.unchanged++;
      continue;
    }
    preview.changed++;
    const effect = edit.field === 'bid' ? effectOf(ground, row, result) : null;
    preview.spend += effect?.spend ?? 0;
    preview.sales += effect?.sales ?? 0;
    if (!withDrafts) continue;
    if (edit.field === 'lane') drafts.push(...laneDrafts(ground, lanes!, row, result, reason));
    else drafts.push(draftOf(table, objects, level, row, edit, result, reason, effect));
  }
  return { preview, drafts };
}

function placeOf({ table, objects }: Ground, level: Level, row: number): string {
  const campaign = objects.campaigns[table.campaignOf(level, row)]!.name;
  const adGroup = objects.adGroups[table.adGroupOf(level, row)]?.name;
  return adGroup && adGroup !== campaign ? `${campaign}, ${adGroup}` : campaign;
}

/** Sending down the lane as a function of a row. A term that several targets caught is sent once. */
function laneEditor({ table }: Ground, lanes: Lanes, { guards, limits }: EditOrder): (row: number) => Edited {
  const [served, blocked, cpc] = ['served', 'blocked', 'cpc'].map((ref) => table.reader('terms', ref));
  const made = new Set<string>();
  return (row) => {
    const term = table.nameOf('terms', row);
    const destination = lanes.of(table.adGroupOf('terms', row), term);
    const there = typeof destination === 'string' ? null : destination.adGroup;
    const goal = there === null ? table.goalAt('terms', row) : table.goalAt('ad_groups', there);
    const result = editLane(
      {
        term,
        served: served!(row) as string | null,
        blocked: blocked!(row) as string | null,
        destination,
        whyNoKeyword: whyNoKeyword(term, limits),
        rpc: table.believedRpc('terms', row),
        cpc: cpc!(row) as number | null,
        theta: goal.theta,
        paidPerBid: usualPaidPerBid,
      },
      guardsOf(goal, guards),
    );
    const key = `${there}\t${term}`;
    if (result.next !== null && made.has(key))
      return { ...result, next: null, problem: 'Another row of this edit sends it.' };
    made.add(key);
    return result;
  };
}

/** The lines that send a term down: created there, blocked where it was found. */
function laneDrafts(
  { table, objects }: Ground,
  lanes: Lanes,
  row: number,
  { next }: Edited,
  reason: string,
): LineDraft[] {
  const term = table.nameOf('terms', row);
  const { adGroup, lane, isolateIn } = lanes.of(table.adGroupOf('terms', row), term) as Destination;
  const isItem = lane.kind === 'item';
  const line = (at: number) => ({
    action: 'create' as const,
    objectId: null,
    campaignId: objects.campaigns[objects.adGroups[at]!.campaign]!.id,
    adGroupId: objects.adGroups[at]!.id,
    oldValue: null,
    expression: isItem ? term.toUpperCase() : term,
    reason,
    effect: null,
  });
  return [
    {
      ...line(adGroup),
      entity: 'target',
      field: 'bid',
      newValue: next,
      targetKind: lane.kind,
      matchType: lane.matchType,
    },
    ...isolateIn.map((at): LineDraft => ({
      ...line(at),
      entity: 'negative',
      field: 'negative',
      newValue: null,
      targetKind: null,
      matchType: isItem ? 'negative_item' : 'negative_exact',
    })),
  ];
}

/** What a click of a row costs per bid, as far as the window shows. */
const paidPerBid = (bid: number | null, cpc: number | null): number =>
  bid === null || bid <= 0 || cpc === null ? usualPaidPerBid : clamp(cpc / bid, 0.3, 1);

/** The edit as a function of a row. */
function editorOf(
  ground: Ground,
  level: Level,
  { edit, values, keepGuards, guards, limits }: EditOrder,
): (row: number, key: string) => Edited {
  const { table, objects, frame, today } = ground;
  switch (edit.field) {
    case 'bid': {
      const cpc = table.reader(level, 'cpc');
      return (row, key) => {
        const target = objects.targets[row]!;
        const goal = table.goalAt(level, row);
        const value = values?.[key];
        return editBid(
          value === undefined ? edit : { field: 'bid', how: 'set', value },
          {
            bid: target.bid,
            changedOn: target.changedOn,
            cpc: cpc(row) as number | null,
            highestCpc: frame!.highestCpc[row] || null,
            rpc: table.believedRpc(level, row),
            targetAcos: goal.targetAcos,
            paidPerBid: paidPerBid(target.bid, cpc(row) as number | null),
          },
          guardsOf(goal, guards),
          today,
          keepGuards,
        );
      };
    }
    case 'daily_budget':
    case 'modifier': {
      const isModifier = edit.field === 'modifier';
      const range = isModifier
        ? { least: 0, most: limits.maximumModifier, step: 1 }
        : { least: limits.minimumBudget, most: 1e12, step: 10_000 };
      return (row, key) => {
        const current = isModifier ? objects.placements[row]!.modifier : objects.campaigns[row]!.dailyBudget;
        const value = values?.[key];
        return editAmount(value === undefined ? edit : { ...edit, how: 'set', value }, current, range);
      };
    }
    case 'status': {
      const status = table.reader(level, 'status');
      return (row) => editStatus(status(row) as string, edit.to);
    }
    case 'lane':
      throw new Error('Lanes have an editor of their own.');
    case 'negative': {
      const blocked = table.reader(level, 'blocked');
      const made = new Set<string>();
      return (row) => {
        const term = table.nameOf(level, row);
        const result = editNegative(
          term,
          edit.matchType,
          blocked(row) as string | null,
          whyNoKeyword(term, limits),
        );
        // A term that several targets caught is blocked once.
        const place = edit.scope === 'campaign' ? table.campaignOf(level, row) : table.adGroupOf(level, row);
        const key = `${place}\t${term}`;
        if (result.next !== null && made.has(key)) {
          return { ...result, next: null, problem: 'Another row of this edit blocks it.' };
        }
        made.add(key);
        return result;
      };
    }
  }
}

/** What a new bid should do in a week, from a week of the window. */
function effectOf({ table, frame, days }: Ground, row: number, { old, next }: Edited): Effect {
  const { clicks, spend } = frame!.targets.read(row, emptySums());
  return bidEffect(
    { clicks: (clicks / days) * 7, spend: (spend / days) * 7 },
    Number(next) / Number(old),
    table.responseAt('targets', row),
    table.belief('targets', row),
    table.marginAt('targets', row),
  );
}

function draftOf(
  table: AccountTable,
  objects: Objects,
  level: Level,
  row: number,
  edit: Edit,
  { old, next }: Edited,
  reason: string,
  effect: Effect | null,
): LineDraft {
  const campaignId = objects.campaigns[table.campaignOf(level, row)]!.id;
  const adGroupId = objects.adGroups[table.adGroupOf(level, row)]?.id ?? null;
  const base = {
    campaignId,
    adGroupId,
    oldValue: old,
    newValue: next,
    targetKind: null,
    matchType: null,
    expression: null,
    reason,
    effect,
  };
  if (edit.field === 'negative') {
    return {
      ...base,
      action: 'create',
      entity: 'negative',
      objectId: null,
      adGroupId: edit.scope === 'campaign' ? null : adGroupId,
      field: 'negative',
      newValue: null,
      matchType: edit.matchType,
      expression: table.nameOf(level, row),
    };
  }
  if (level === 'placements') {
    const { placement } = objects.placements[row]!;
    return {
      ...base,
      action: 'update',
      entity: 'placement_modifier',
      objectId: campaignId,
      field: placement,
    };
  }
  const action = edit.field === 'status' && edit.to === 'archived' ? 'archive' : 'update';
  const changed = { ...base, action, objectId: table.key(level, row), field: edit.field } as const;
  if (level === 'campaigns') return { ...changed, entity: 'campaign' };
  if (level === 'negatives') {
    const { matchType, expression } = objects.negatives[row]!;
    return { ...changed, entity: 'negative', matchType, expression };
  }
  const { kind, matchType, expression } = objects.targets[row]!;
  return { ...changed, entity: 'target', targetKind: kind, matchType, expression };
}

/** What the line says of where it comes from. */
function reasonOf(edit: Edit, keepGuards: boolean): string {
  if (edit.field === 'negative') return 'Added as a negative in Explore.';
  if (edit.field === 'lane') return 'Sent down its lane in Explore.';
  if (edit.field === 'status') return `Set to ${edit.to} in Explore.`;
  const guards = edit.field === 'bid' && !keepGuards ? ' Without guards.' : '';
  switch (edit.how) {
    case 'rest':
      return 'Rested in Explore: bid at its floor.';
    case 'rpc':
      return `Set to revenue per click × target in Explore.${guards}`;
    case 'cpc':
      return `Set to ${Math.round(edit.value * 100)} % of its CPC in Explore.${guards}`;
    case 'percent': {
      const percent = `${edit.value < 0 ? '−' : '+'}${Math.abs(Math.round(edit.value * 1000) / 10)} %`;
      return `Changed by ${percent} in Explore.${guards}`;
    }
    default:
      return `Changed by hand in Explore.${guards}`;
  }
}

export interface PreviewRow extends Edited {
  key: string;
  name: string;
  place: string;
}

export interface Preview {
  changed: number;
  unchanged: number;
  /** How often each guard held a value, and why rows stay as they are. */
  held: Record<string, number>;
  problems: Record<string, number>;
  /** Expected change per week. */
  spend: Micros;
  sales: Micros;
  rows: PreviewRow[];
}
