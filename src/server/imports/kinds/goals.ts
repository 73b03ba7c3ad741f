import { stances, type Stance } from '../../../core/bids/guards.ts';
import { methods, type Method } from '../../../core/bids/methods.ts';
import {
  goalScopes,
  objectives,
  scopeName,
  type GoalScope,
  type Objective,
} from '../../../core/goals/goals.ts';
import { marginOf } from '../../account/account.ts';
import { productsOf, touchGoals } from '../../account/queries.ts';
import { changedGoal, problemsOf, type GoalCall, type PlaceGround } from '../../goals/goals.ts';
import type { LoadedGoal } from '../../goals/loaded.ts';
import { goalRows, namedPlaces, upsertGoals } from '../../goals/queries.ts';
import { column } from '../files/columns.ts';
import type { RowCheck } from '../files/read.ts';
import { textOf } from '../files/read.ts';
import { inBatches, noDays, type Loader } from '../staging/loader.ts';
import type { Kind, Loading } from './kind.ts';

/** One of some words, as people write them: blanks for lines, any case; undefined: none of them. */
const oneOf = <T extends string>(words: readonly T[], text: string): T | undefined =>
  words.find((word) => word === text.toLowerCase().replace(/[ -]/g, '_'));

/** What rows are checked against: places by their names and by the marketplace's ids, and goals as rows made them. */
async function open({ tx, accountId }: Loading): Promise<Loader> {
  const products = await productsOf(tx, accountId);
  const margins = new Map(products.map((row) => [row.sku, marginOf(row)]));
  const goals = new Map((await goalRows(tx, accountId)).map((row) => [`${row.scope}:${row.key}`, row]));
  const before = new Map(goals);
  const named = new Map<string, { key: string; ground: PlaceGround }>();
  const ofAccount: PlaceGround = { place: 'the account', campaignId: '', adGroupId: null, sku: null };
  for (const { sku, title } of products) {
    const found = { key: sku, ground: { ...ofAccount, place: sku, sku } };
    named.set(`product:${title}`, found);
    named.set(`product:${sku}`, found);
  }
  for (const { scope, key, extId, name, campaignId, sku } of await namedPlaces(tx, accountId)) {
    const adGroupId = scope === 'ad_group' ? key : null;
    const found = { key, ground: { place: name, campaignId, adGroupId, sku } };
    named.set(`${scope}:${name}`, found);
    if (extId !== null) named.set(`${scope}:${extId}`, found);
  }
  // Goals of places are checked against those around them only: all of a large file against all would take for ever.
  const around = ({ campaignId, sku }: PlaceGround) =>
    ['account:', `product:${sku ?? ''}`, `campaign:${campaignId}`].flatMap((name) => goals.get(name) ?? []);

  const check: RowCheck = (values) => {
    const scope = oneOf<GoalScope>(goalScopes, textOf(values.scope)!);
    if (!scope)
      return {
        column: 'scope',
        reason: `Goals are kept for account, product, campaign, ad_group; not for this.`,
      };
    const name = textOf(values.id) ?? textOf(values.name) ?? '';
    const found = scope === 'account' ? { key: '', ground: ofAccount } : named.get(`${scope}:${name}`);
    if (found === undefined)
      return {
        column: values.id ? 'id' : 'name',
        reason: `There is no ${scope.replace('_', ' ')} “${name}” here.`,
      };
    const call: GoalCall = { scope, key: found.key };
    const words = [
      ['objective', objectives],
      ['stance', stances],
      ['method', methods],
    ] as const;
    for (const [field, known] of words) {
      const text = textOf(values[field]);
      if (text === null) continue;
      const word = oneOf(known as readonly string[], text);
      if (word === undefined) return { column: field, reason: `It is none of ${known.join(', ')}.` };
      if (field === 'objective') call.objective = word as Objective;
      if (field === 'stance') call.stance = word as Stance;
      if (field === 'method') call.method = word as Method;
    }
    const number = (field: string) => (values[field] ?? undefined) as number | undefined;
    call.targetAcos = number('target_acos');
    call.targetMargin = number('target_margin');
    call.bidFloor = number('bid_floor');
    call.bidCeiling = number('bid_ceiling');
    if (call.targetAcos === undefined && call.targetMargin !== undefined) call.objective ??= 'margin';
    const { targetAcos } = call;
    if (targetAcos !== undefined && !(targetAcos! > 0 && targetAcos! <= 5))
      return { column: 'target_acos', reason: 'A target ACOS lies above 0 % and up to 500 %.' };
    if (Object.values(call).filter((value) => value !== undefined).length <= 2)
      return { column: 'target_acos', reason: 'It says no goal.' };
    const place = `${scope}:${found.key}`;
    const goal = changedGoal(goals.get(place), call);
    const [wrong] = problemsOf(goal, around(found.ground), found.ground, margins);
    const columns: Record<string, string> = {
      targetAcos: 'target_acos',
      targetMargin: 'target_margin',
      bidFloor: 'bid_floor',
      bidCeiling: 'bid_ceiling',
    };
    if (wrong)
      return {
        column: columns[wrong.field] ?? wrong.field,
        reason: wrong.asks ? `${wrong.text} Set it on Goals where it is meant.` : wrong.text,
      };
    goals.set(place, goal);
    values.place = place;
    return null;
  };
  const told = new Set<string>();
  return inBatches(
    check,
    async (rows) => {
      for (const { place } of rows) told.add(place as string);
    },
    async () => {
      const after = [...told].map((place) => goals.get(place)!);
      await upsertGoals(tx, accountId, after);
      await touchGoals(tx, accountId);
      const changed = after.map((row): LoadedGoal => ({
        before: before.get(scopeName(row)) ?? null,
        after: row,
      }));
      return { ...noDays, changed };
    },
  );
}

/** Goals of the account, of products, campaigns and ad groups. */
export const goals: Kind = {
  columns: [
    column('scope', 'text', 'goal of, level', true),
    column('id', 'text', 'object id, sku, campaign id, ad group id'),
    column('name', 'text', 'object, campaign, ad group, product, title'),
    column('objective', 'text', 'aim'),
    column('target_acos', 'share', 'goal, acos goal, acos target'),
    column('target_margin', 'share', 'margin goal, margin after ads'),
    column('bid_floor', 'money', 'floor, lowest bid'),
    column('bid_ceiling', 'money', 'ceiling, highest bid'),
    column('stance', 'text', 'steps'),
    column('method', 'text', 'bid method'),
  ],
  open,
  leavesFigures: true,
};
