import { entities, fieldOf, fromUnits, valueProblem } from '../../../core/changes/fields.ts';
import { fieldLimitsOf } from '../../account/limits.ts';
import { randomUUID } from 'node:crypto';
import { conflictKey, effectOfEdit, type LineDraft } from '../../../core/changes/lines.ts';
import { getAccount } from '../../account/account.ts';
import { settleByHand, todayOf, type CarriedLine } from '../../changes/carry.ts';
import {
  type LineRow,
  changeLine,
  insertLines,
  knownLines,
  linesOn,
  linesUnder,
  settleLines,
} from '../../changes/lines.queries.ts';
import { insertSentSheet, lockOpenSheet } from '../../changes/sheets.queries.ts';
import { rowOf } from '../../changes/rows.ts';
import type { Database, Transaction } from '../../db/connection.ts';
import { lookupsOf, type Lookups } from '../staging/lookups.queries.ts';
import { inBatches, noDays, type Loader } from '../staging/loader.ts';
import { changeColumns } from '../../changes/columns.ts';
import { column } from '../files/columns.ts';
import type { Kind, Loading } from './kind.ts';
import type { RowCheck, Values } from '../files/read.ts';
import { textOf } from '../files/read.ts';
import { readNumber } from '../files/values.ts';

/**
 * Files of change lines. An open line of this account takes the new value of its row; a line that is not known goes
 * onto the open sheet; a line that was sent elsewhere comes back into the ledger, as history.
 */

const actions = ['create', 'update', 'archive'];
const sentStates = ['applied', 'refused'];

type Wrong = ReturnType<RowCheck>;
const wrong = (column: string, reason: string): Wrong => ({ column, reason });

/** A row with the objects of this account that it means. */
interface Resolved {
  campaignId: string;
  adGroupId: string | null;
  objectId: string | null;
}

function resolve(values: Values, known: Lookups): Resolved | Wrong {
  const text = (name: string) => textOf(values[name]);
  const campaignId =
    known.campaigns.get(`#${text('campaign_id')}`) ?? known.campaigns.get(text('campaign') ?? '');
  if (campaignId === undefined)
    return wrong('campaign', `There is no campaign “${text('campaign') ?? text('campaign_id') ?? ''}” here.`);
  const named = text('ad_group_id') ?? text('ad_group');
  const adGroupId =
    known.adGroups.get(`#${text('ad_group_id')}`) ?? known.adGroups.get(`${campaignId}\t${text('ad_group')}`);
  if (named !== null && adGroupId === undefined)
    return wrong('ad_group', `There is no ad group “${named}” in this campaign.`);
  const found = { campaignId, adGroupId: adGroupId ?? null };
  const entity = text('entity');
  if (values.action === 'create') return { ...found, objectId: null };
  if (entity === 'campaign' || entity === 'placement_modifier') return { ...found, objectId: campaignId };
  if (entity === 'ad_group')
    return adGroupId === undefined
      ? wrong('ad_group', 'It names no ad group.')
      : { ...found, objectId: adGroupId };
  const list = entity === 'target' ? known.targets : known.negatives;
  const path = `${entity === 'target' ? (adGroupId ?? '') : `${campaignId}\t${adGroupId ?? ''}`}\t${text('match_type') ?? ''}\t${text('expression')}`;
  const objectId = list.get(`#${text('object_id')}`) ?? list.get(path);
  return objectId === undefined
    ? wrong('expression', `There is no such ${entity} here.`)
    : { ...found, objectId };
}

async function open({ tx, accountId }: Loading): Promise<Loader> {
  const known = await lookupsOf(tx, accountId);
  const limits = fieldLimitsOf(await getAccount(tx as unknown as Database, accountId));
  const check: RowCheck = (values) => {
    const text = (name: string) => textOf(values[name]);
    values.action = text('action')!.toLowerCase();
    values.entity = text('entity')!.toLowerCase();
    values.state = (text('state') ?? 'open').toLowerCase();
    if (!actions.includes(values.action)) return wrong('action', `It is none of ${actions.join(', ')}.`);
    if (!(entities as readonly string[]).includes(values.entity))
      return wrong('entity', `It is none of ${entities.join(', ')}.`);
    if (!['open', ...sentStates].includes(values.state))
      return wrong('state', `It is none of open, ${sentStates.join(', ')}.`);
    const field = fieldOf(values.entity, text('field')!);
    if (values.action === 'update' && !field)
      return wrong('field', `There is no field “${text('field')}” of a ${values.entity.replace('_', ' ')}.`);
    for (const name of ['old_value', 'new_value']) {
      const value = fromUnits(field, text(name), (number) => readNumber(number, '.'));
      if (text(name) !== null && value === null) return wrong(name, 'It is not a number.');
      values[name] = value;
    }
    if (values.action === 'update' && values.new_value === null && !field!.optional)
      return wrong('new_value', 'It is empty.');
    if (values.state === 'open' && field && (values.action === 'update' || values.new_value !== null)) {
      const problem = valueProblem(field, textOf(values.new_value), limits);
      if (problem && values.action !== 'archive') return wrong('new_value', problem);
    }
    const found = resolve(values, known);
    if (!found || 'reason' in found) return found;
    Object.assign(values, {
      found_campaign: found.campaignId,
      found_ad_group: found.adGroupId,
      found_object: found.objectId,
    });
    return null;
  };
  const load = new ChangesLoad(tx, accountId);
  return inBatches(
    check,
    (rows) => load.put(rows),
    async () => {
      await load.finish();
      return noDays;
    },
  );
}

function draftOf(values: Values): LineDraft {
  const text = (name: string) => textOf(values[name]);
  return {
    action: text('action') as LineDraft['action'],
    entity: text('entity') as LineDraft['entity'],
    objectId: text('found_object'),
    campaignId: text('found_campaign')!,
    adGroupId: text('found_ad_group'),
    field: text('field')!,
    oldValue: text('old_value'),
    newValue: text('new_value'),
    targetKind: text('target_kind'),
    matchType: text('match_type'),
    expression: text('expression'),
    harvest: null,
    reason: text('reason') ?? 'From a file.',
    effect: null,
    test: null,
  };
}

const signOf = (line: {
  sheet_id: number;
  conflict_key: string;
  action: string;
  new_value: string | null;
}): string => `${line.sheet_id}|${line.conflict_key}|${line.action}|${line.new_value}`;

/** The lines of one file, some thousand at a time; what it answers of the open sheet closes that once, at its end. */
class ChangesLoad {
  private readonly group = randomUUID();
  /** Sheets of the ledger that the file names, by their number and day there. */
  private readonly history = new Map<string, number>();
  /** What came of open lines, by their numbers; what is said last counts. */
  private readonly settled = new Map<number, CarriedLine>();
  private openId = 0;

  constructor(
    private readonly tx: Transaction,
    private readonly accountId: number,
  ) {}

  async put(rows: Values[]): Promise<void> {
    const { tx, accountId } = this;
    this.openId = await lockOpenSheet(tx, accountId);
    const numbers = rows
      .map((row) => Number(row.line_id ?? 0))
      .filter((id) => Number.isInteger(id) && id > 0);
    const mine = new Map((await knownLines(tx, accountId, numbers)).map((line) => [line.line_id, line]));
    const fresh: { draft: LineDraft; sheetId: number; values: Values }[] = [];
    for (const values of rows) {
      const draft = draftOf(values);
      const line = mine.get(Number(values.line_id ?? 0));
      // A number alone says nothing: in another account it is another line's.
      const isKnown = line?.conflict_key === conflictKey(draft) && line.entity === draft.entity;
      if (isKnown) await this.answer(line, draft, values);
      else fresh.push({ draft, sheetId: await this.sheetOf(values), values });
    }
    await this.insert(fresh);
  }

  async finish(): Promise<void> {
    const { tx, accountId, settled } = this;
    if (settled.size === 0) return;
    const today = await todayOf(tx, accountId, new Date());
    await settleByHand(tx, accountId, this.openId, [...settled.values()], today);
  }

  /** A line that is known: what came of it, or its new value. */
  private async answer(line: LineRow, draft: LineDraft, values: Values): Promise<void> {
    if (line.state !== 'open') return;
    const lineId = line.line_id;
    if (values.state !== 'open') {
      const state = values.state === 'refused' ? 'refused' : 'applied';
      this.settled.set(lineId, { lineId, state, message: textOf(values.message) });
    } else if (draft.newValue !== null && line.new_value !== draft.newValue) {
      const before = { oldValue: line.old_value, newValue: line.new_value, effect: line.effect };
      await changeLine(this.tx, this.accountId, lineId, {
        new_value: draft.newValue,
        effect: effectOfEdit(before, draft.newValue),
      });
    }
  }

  /** The sheet that a line which is not known belongs to. */
  private async sheetOf(values: Values): Promise<number> {
    if (values.state === 'open') return this.openId;
    const [sheet, sentOn] = [textOf(values.sheet), textOf(values.sent_on)];
    const name = `${sheet}|${sentOn}`;
    const known = this.history.get(name);
    if (known !== undefined) return known;
    const made = await insertSentSheet(this.tx, this.accountId, sentOn, sheet ?? '');
    this.history.set(name, made);
    return made;
  }

  private async insert(fresh: { draft: LineDraft; sheetId: number; values: Values }[]): Promise<void> {
    const { tx, accountId, openId, group } = this;
    const lines = fresh.map(({ draft, sheetId, values }) => {
      const about = {
        sheet_id: sheetId,
        group_key: group,
        finding_key: null,
        proposed_by: textOf(values.proposed_by) ?? 'a file',
        reverts: null,
      };
      return { row: rowOf(draft, about), values };
    });
    const keys = lines.map(({ row }) => row.conflict_key);
    // A line that the ledger tells already, on its sheet or on the open one, is not told twice.
    const known = [
      ...(await linesUnder(tx, accountId, openId, keys)).map((line) => ({ ...line, sheet_id: openId })),
      ...(await linesOn(tx, accountId, [...this.history.values()])),
    ];
    const same = new Set(known.map(signOf));
    const wanted = lines.filter(({ row }) => !same.has(signOf(row)));
    const ids = await insertLines(
      tx,
      accountId,
      wanted.map(({ row }) => row),
    );
    await settleLines(
      tx,
      accountId,
      wanted.map(({ values }, i) => ({
        line_id: ids[i]!,
        state: textOf(values.state)!,
        message: textOf(values.message),
      })),
    );
  }
}

/** Lines of a sheet, and of the ledger. */
export const changes: Kind = {
  columns: changeColumns.map((name) =>
    column(name, 'text', '', ['action', 'entity', 'field'].includes(name)),
  ),
  open,
};
