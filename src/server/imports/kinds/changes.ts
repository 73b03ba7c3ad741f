import { entities, fieldOf, fromUnits, valueProblem } from '../../../core/changes/fields.ts';
import { fieldLimitsOf } from '../../account/limits.ts';
import { randomUUID } from 'node:crypto';
import { conflictKey, effectOfEdit, type LineDraft } from '../../../core/changes/lines.ts';
import { getAccount } from '../../account/account.ts';
import { settleByHand, todayOf, type CarriedLine } from '../../changes/carry.ts';
import {
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
  return inBatches(
    check,
    (rows) => put(tx, accountId, rows),
    () => Promise.resolve(noDays),
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
  };
}

async function put(tx: Transaction, accountId: number, rows: Values[]): Promise<void> {
  const numbers = rows.map((row) => Number(row.line_id ?? 0)).filter((id) => Number.isInteger(id) && id > 0);
  const mine = new Map((await knownLines(tx, accountId, numbers)).map((line) => [line.line_id, line]));
  const fresh: { sheetId: number; values: Values }[] = [];
  const history = new Map<string, number>();
  const openId = await lockOpenSheet(tx, accountId);
  const settled: CarriedLine[] = [];
  for (const values of rows) {
    const draft = draftOf(values);
    const line = mine.get(Number(values.line_id ?? 0));
    // A number alone says nothing: in another account it is another line's.
    if (line?.conflict_key === conflictKey(draft) && line.entity === draft.entity) {
      if (line.state === 'open' && values.state !== 'open') {
        const state = values.state === 'refused' ? 'refused' : 'applied';
        settled.push({ lineId: line.line_id, state, message: textOf(values.message) });
      } else if (line.state === 'open' && line.new_value !== draft.newValue && draft.newValue !== null)
        await changeLine(tx, accountId, line.line_id, {
          new_value: draft.newValue,
          effect: effectOfEdit(
            { oldValue: line.old_value, newValue: line.new_value, effect: line.effect },
            draft.newValue,
          ),
        });
      continue;
    }
    if (values.state === 'open') fresh.push({ sheetId: openId, values });
    else {
      const name = `${textOf(values.sheet)}|${textOf(values.sent_on)}`;
      let sheetId = history.get(name);
      if (sheetId === undefined) {
        sheetId = await insertSentSheet(tx, accountId, textOf(values.sent_on), textOf(values.sheet) ?? '');
        history.set(name, sheetId);
      }
      fresh.push({ sheetId, values });
    }
  }
  if (settled.length > 0)
    await settleByHand(tx, accountId, openId, settled, await todayOf(tx, accountId, new Date()));
  const openNow = settled.length > 0 ? await lockOpenSheet(tx, accountId) : openId;
  const group = randomUUID();
  const lines = fresh.map(({ sheetId, values }) => {
    const proposedBy = textOf(values.proposed_by) ?? 'a file';
    const about = {
      sheet_id: sheetId === openId ? openNow : sheetId,
      group_key: group,
      finding_key: null,
      proposed_by: proposedBy,
      reverts: null,
    };
    return { ...rowOf(draftOf(values), about), values };
  });
  const standing = await linesUnder(
    tx,
    accountId,
    openNow,
    lines.map((line) => line.conflict_key),
  );
  // A line that the ledger tells already, on its sheet or on the open one, is not told twice.
  const signOf = (line: {
    sheet_id: number;
    conflict_key: string;
    action: string;
    new_value: string | null;
  }) => `${line.sheet_id}|${line.conflict_key}|${line.action}|${line.new_value}`;
  const known = [
    ...standing.map((line) => ({ ...line, sheet_id: openNow })),
    ...(await linesOn(tx, accountId, [...history.values()])),
  ];
  const same = new Set(known.map(signOf));
  const wanted = lines.filter((line) => !same.has(signOf(line)));
  const ids = await insertLines(
    tx,
    accountId,
    wanted.map(({ values: _, ...line }) => line),
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

/** Lines of a sheet, and of the ledger. */
export const changes: Kind = {
  columns: changeColumns.map((name) =>
    column(name, 'text', '', ['action', 'entity', 'field'].includes(name)),
  ),
  open,
};
