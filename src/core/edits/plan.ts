import type { Micros } from '../metrics/money.ts';
import { usualPaidPerBid } from '../evidence/present-cpc.ts';
import type { Level, Rows } from '../account/levels.ts';
import { runningOn } from '../account/running.ts';
import type { Guards } from '../bids/guards.ts';
import {
  fieldLine,
  negativeLine,
  newTargetLine,
  type LineDraft,
  type LineNote,
  type LinePlace,
  type LineTarget,
} from '../changes/lines.ts';
import {
  editAmount,
  editBid,
  editChoice,
  editLane,
  editNegative,
  isAmountEdit,
  isBidEdit,
  isChoiceEdit,
  type AmountEdit,
  type BidEdit,
  type ChoiceEdit,
  type Edit,
  type Edited,
} from './edits.ts';
import { fieldAt, valueText, whyNotAt, type FieldLimits } from '../changes/fields.ts';
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
  limits: KeywordLimits & FieldLimits & { itemCode: string };
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

/** Why an edit is none of a level, as a sentence; null when it can be made there. */
export function whyNotEditable(level: Level, { field }: Edit): string | null {
  if (field !== 'negative' && field !== 'lane') return whyNotAt(level, field);
  return level === 'terms' ? null : `“${field}” is edited at the level of terms, not of ${level}.`;
}

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
  const reason = reasonOf(level, edit, order.keepGuards);
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
    const effect = isBidEdit(edit) ? effectOf(ground, row, result) : null;
    preview.spend += effect?.spend ?? 0;
    preview.sales += effect?.sales ?? 0;
    if (!withDrafts) continue;
    if (edit.field === 'lane') drafts.push(...laneDrafts(ground, lanes!, row, result, reason));
    else drafts.push(draftOf(ground, level, row, edit, result, { reason, effect }));
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
  const expression = isItem ? term.toUpperCase() : term;
  const placeOf = (at: number): LinePlace => ({
    campaignId: objects.campaigns[objects.adGroups[at]!.campaign]!.id,
    adGroupId: objects.adGroups[at]!.id,
  });
  const harvest = isolateIn.length > 0 ? `lane:${objects.adGroups[adGroup]!.id}:${term}` : null;
  const target = { targetKind: lane.kind, matchType: lane.matchType, expression };
  const negative = { matchType: isItem ? 'negative_item' : 'negative_exact', expression } as const;
  return [
    newTargetLine(placeOf(adGroup), target, Number(next), { reason, harvest }),
    ...isolateIn.map((at) => negativeLine(placeOf(at), negative, { reason, harvest })),
  ];
}

/** What a click of a row costs per bid, as far as the window shows. */
const paidPerBid = (bid: number | null, cpc: number | null): number =>
  bid === null || bid <= 0 || cpc === null ? usualPaidPerBid : clamp(cpc / bid, 0.3, 1);

/** The edit as a function of a row. */
function editorOf(ground: Ground, level: Level, order: EditOrder): (row: number, key: string) => Edited {
  const { edit } = order;
  if (isBidEdit(edit)) return bidEditor(ground, level, edit, order);
  if (isAmountEdit(edit) || isChoiceEdit(edit)) return fieldEditor(ground, level, edit, order);
  if (edit.field === 'negative') return negativeEditor(ground, level, edit, order);
  throw new Error('Lanes have an editor of their own.');
}

function bidEditor(
  { table, objects, frame, today }: Ground,
  level: Level,
  edit: BidEdit,
  { values, keepGuards, guards }: EditOrder,
): (row: number, key: string) => Edited {
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

/** Any field, by its entry. */
function fieldEditor(
  { objects }: Ground,
  level: Level,
  edit: AmountEdit | ChoiceEdit,
  { values, limits }: EditOrder,
): (row: number, key: string) => Edited {
  const field = fieldAt(level, edit.field)!;
  if ('to' in edit)
    return (row) => editChoice(field, field.read(objects, row) as string | null, edit.to, limits);
  const range = field.range!(limits);
  return (row, key) => {
    const value = values?.[key];
    const wanted: AmountEdit = value === undefined ? edit : { ...edit, how: 'set', value };
    return editAmount(wanted, field.read(objects, row) as number | null, range);
  };
}

function negativeEditor(
  { table }: Ground,
  level: Level,
  edit: Extract<Edit, { field: 'negative' }>,
  { limits }: EditOrder,
): (row: number) => Edited {
  const blocked = table.reader(level, 'blocked');
  const made = new Set<string>();
  return (row) => {
    const term = table.nameOf(level, row);
    const whyNot = whyNoKeyword(term, limits);
    const result = editNegative(term, edit.matchType, blocked(row) as string | null, whyNot);
    // A term that several targets caught is blocked once.
    const place = edit.scope === 'campaign' ? table.campaignOf(level, row) : table.adGroupOf(level, row);
    const key = `${place}\t${term}`;
    if (result.next !== null && made.has(key))
      return { ...result, next: null, problem: 'Another row of this edit blocks it.' };
    made.add(key);
    return result;
  };
}

/** What a new bid should do in a week, from a week of the window. */
function effectOf({ table, frame, days }: Ground, row: number, { old, next }: Edited): Effect {
  const { clicks, spend } = frame!.targets.read(row, emptySums());
  return bidEffect(
    { clicks: (clicks / days) * 7, spend: (spend / days) * 7 },
    Number(next) / Number(old),
    table.responseOf(row),
    table.belief('targets', row),
    table.marginAt('targets', row),
  );
}

function draftOf(
  { table, objects }: Ground,
  level: Level,
  row: number,
  edit: Edit,
  { old, next }: Edited,
  note: LineNote,
): LineDraft {
  const place = {
    campaignId: objects.campaigns[table.campaignOf(level, row)]!.id,
    adGroupId: objects.adGroups[table.adGroupOf(level, row)]?.id ?? null,
  };
  if (edit.field === 'negative' && 'matchType' in edit) {
    const at = edit.scope === 'campaign' ? { ...place, adGroupId: null } : place;
    return negativeLine(at, { matchType: edit.matchType, expression: table.nameOf(level, row) }, note);
  }
  const { entity, name } = fieldAt(level, edit.field)!;
  const values = { oldValue: old, newValue: next === '' ? null : next };
  if (entity === 'placement_modifier')
    return fieldLine(entity, objects.placements[row]!.placement, place, place.campaignId, values, note);
  return fieldLine(entity, name, place, table.key(level, row), values, note, aboutOf(objects, level, row));
}

/** The target or negative that a row is, as its line names it. */
function aboutOf({ targets, negatives }: Objects, level: Level, row: number): LineTarget | undefined {
  if (level === 'negatives') {
    const { matchType, expression } = negatives[row]!;
    return { matchType, expression };
  }
  if (level !== 'targets') return undefined;
  const { kind, matchType, expression } = targets[row]!;
  return { targetKind: kind, matchType, expression };
}

/** What the line says of where it comes from. */
function reasonOf(level: Level, edit: Edit, keepGuards: boolean): string {
  if (isChoiceEdit(edit))
    return edit.to === null
      ? 'Taken away in Explore.'
      : `Set to ${valueText(fieldAt(level, edit.field), edit.to)} in Explore.`;
  if (!('how' in edit))
    return edit.field === 'lane' ? 'Sent down its lane in Explore.' : 'Added as a negative in Explore.';
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
