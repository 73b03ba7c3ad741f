import type { GoalPlace, GoalsAnswer, GoalValues, ThetaAnswer } from '../../answers/goals.ts';
import { defaultGuards } from '../../core/bids/guards.ts';
import { goalProblems, type GoalProblem } from '../../core/goals/check.ts';
import { Goals, type ScopeName } from '../../core/goals/goals.ts';
import { thetaAt } from '../../core/goals/theta.ts';
import { percent, significant } from '../../core/metrics/format.ts';
import { windowEnding } from '../../core/metrics/days.ts';
import { getAccount, marginOf, settling } from '../account/account.ts';
import { productsOf, touchGoals, type ProductRow } from '../account/queries.ts';
import { db, type Database, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { enqueue } from '../jobs/jobs.ts';
import {
  cpcByProduct,
  deleteGoal,
  goalRows,
  placesLike,
  placesOf,
  setCosts,
  thetaRows,
  upsertGoals,
  type CostsRow,
  type GoalRow,
  type ThetaRow,
} from './queries.ts';
import { plainGoal } from './set-goals.ts';

/** What is said of a goal; what is left out stays as it was. `confirmed`: what it asks is meant. */
export type GoalCall = ScopeName & Partial<GoalValues> & { confirmed?: boolean };

const mostPlaces = 40;

/** Goals of the account, with each scope's theta, and its products with what they cost. */
export async function goalsOf(accountId: number): Promise<GoalsAnswer> {
  const sql = db();
  const account = await getAccount(sql, accountId);
  const thetas = await thetaRows(sql, accountId);
  const rows = await goalRows(sql, accountId);
  const keys = (scope: string) => rows.filter((row) => row.scope === scope).map(({ key }) => key);
  const places = new Map(
    (await placesOf(sql, accountId, keys('campaign'), keys('ad_group'))).map((place) => [
      `${place.scope}:${place.key}`,
      place,
    ]),
  );
  const { settledTo } = await settling(sql, account);
  const days = settledTo && windowEnding(settledTo, 30);
  const cpcs = days ? await cpcByProduct(sql, accountId, days.from, days.to) : new Map<string, number>();
  return {
    today: account.today,
    goals: rows.map((row) => {
      const theta = thetas.find(({ scope, key }) => scope === row.scope && key === row.key);
      const place = places.get(`${row.scope}:${row.key}`);
      return {
        ...valuesOf(row),
        scope: row.scope,
        key: row.key,
        name: place?.name ?? null,
        campaignId: place?.campaignId ?? null,
        campaign: place?.campaign ?? null,
        sku: row.scope === 'product' ? row.key : (place?.sku ?? null),
        theta: theta && row.objective !== null && row.objective !== 'profit' ? saidOf(theta, row) : null,
      };
    }),
    products: (await productsOf(sql, accountId)).map((row) => ({
      sku: row.sku,
      title: row.title,
      stock: row.stock,
      margin: marginOf(row),
      economics: economicsOf(row),
      cpc: cpcs.get(row.sku) ?? null,
    })),
  };
}

/** What was told of a product's costs. */
function economicsOf(row: ProductRow): GoalsAnswer['products'][number]['economics'] {
  const told = {
    unitCost: row.unit_cost,
    feeRate: row.fee_rate,
    feeFixed: row.fee_fixed,
    shipping: row.shipping,
    refundRate: row.refund_rate,
  };
  return {
    price: row.price,
    ...Object.fromEntries(Object.entries(told).filter(([, value]) => value !== null)),
  };
}

/** What was set, without whose it is. */
function valuesOf(row: GoalRow): GoalValues {
  const { objective, targetAcos, targetMargin, bidFloor, bidCeiling, stance, method, ladder, guards } =
    plainGoal(row);
  return {
    objective: objective ?? null,
    targetAcos,
    targetMargin: targetMargin ?? null,
    bidFloor,
    bidCeiling,
    stance: stance ?? null,
    method: method ?? null,
    ladder: ladder ?? null,
    guards: guards ?? null,
    aboveOne: row.above_one,
  };
}

/** Theta of a scope as it stands, and why. */
function saidOf(row: ThetaRow, { objective, target_acos, above_one }: GoalRow): ThetaAnswer {
  const target = objective === 'acos' ? target_acos! : row.target_acos;
  const { theta, held } = thetaAt(row, target, above_one);
  return {
    value: theta,
    target,
    day: row.day,
    reason: held
      ? `At ${percent(target)} a bid would go above its own revenue per click: held at ${significant(theta)} until you confirm that.`
      : row.reason,
    outcome: held ? ('wants confirmation' as const) : row.outcome,
    expectedAcos: row.expected_acos,
    inForce: row.in_force,
  };
}

export const findPlaces = (accountId: number, text: string): Promise<GoalPlace[]> =>
  placesLike(db(), accountId, text, mostPlaces);

const nothing: Omit<GoalRow, keyof ScopeName> = {
  objective: null,
  target_acos: null,
  target_margin: null,
  bid_floor: null,
  bid_ceiling: null,
  stance: null,
  method: null,
  ladder: null,
  guards: null,
  above_one: false,
};

/** A goal as it would stand after what is said of it. A target that is told without its kind is a target ACOS. */
export function changedGoal(before: GoalRow | undefined, call: GoalCall): GoalRow {
  const { scope, key } = call;
  const row = before ?? { ...nothing, scope, key };
  const told = <T>(value: T | undefined, old: T): T => (value === undefined ? old : value);
  const changed: GoalRow = {
    scope,
    key,
    objective: told(call.objective, call.targetAcos == null ? row.objective : 'acos'),
    target_acos: told(call.targetAcos, row.target_acos),
    target_margin: told(call.targetMargin, row.target_margin),
    bid_floor: told(call.bidFloor, row.bid_floor),
    bid_ceiling: told(call.bidCeiling, row.bid_ceiling),
    stance: told(call.stance, row.stance),
    method: told(call.method, row.method),
    ladder: told(call.ladder, row.ladder),
    guards: told(call.guards, row.guards),
    above_one: told(call.aboveOne, row.above_one),
  };
  if (scope === 'account') return { ...changed, objective: changed.objective ?? 'acos' };
  // What is not aimed at is not kept: a target that nobody sees would come back by itself.
  if (changed.objective !== 'acos') changed.target_acos = null;
  if (changed.objective !== 'margin') changed.target_margin = null;
  return changed;
}

/** Whether a goal says anything. */
export const saysNothing = ({ scope, key, above_one: _, ...settings }: GoalRow): boolean =>
  scope !== 'account' && key !== '' && Object.values(settings).every((value) => value === null);

export interface PlaceGround {
  place: string;
  campaignId: string;
  adGroupId: string | null;
  sku: string | null;
}

/** What is wrong with a goal as it would stand beside the others. */
export function problemsOf(
  goal: GoalRow,
  others: readonly GoalRow[],
  ground: PlaceGround,
  margins: ReadonlyMap<string, number | null>,
): GoalProblem[] {
  const { scope, key } = goal;
  const wider = others.filter((one) => one.scope !== scope || one.key !== key);
  const rules =
    scope === 'account'
      ? defaultGuards
      : (() => {
          const goals = new Goals(wider.map(plainGoal));
          return goals.guardsOf(goals.of(ground));
        })();
  // The account's products have margins of their own: only above all of them every order would lose money.
  const known = [...margins.values()].filter((one) => one !== null);
  const margin =
    scope === 'account'
      ? known.length > 0
        ? Math.max(...known)
        : null
      : ground.sku === null
        ? null
        : (margins.get(ground.sku) ?? null);
  return goalProblems(plainGoal(goal), { place: ground.place, margin, wider: rules });
}

async function groundOf(
  sql: Database | Transaction,
  accountId: number,
  { scope, key }: ScopeName,
  products: readonly ProductRow[],
): Promise<PlaceGround> {
  if (scope === 'account') return { place: 'the account', campaignId: '', adGroupId: null, sku: null };
  if (scope === 'product') {
    if (!products.some(({ sku }) => sku === key)) throw notFound(`product ${key}`);
    return { place: key, campaignId: '', adGroupId: null, sku: key };
  }
  const isNumber = /^\d{1,18}$/.test(key);
  const [place] = isNumber
    ? await placesOf(sql, accountId, scope === 'campaign' ? [key] : [], scope === 'ad_group' ? [key] : [])
    : [];
  if (!place) throw notFound(`${scope.replace('_', ' ')} ${key}`);
  return {
    place: place.name,
    campaignId: place.campaignId,
    adGroupId: scope === 'ad_group' ? key : null,
    sku: place.sku,
  };
}

const marginsOf = (products: readonly ProductRow[]) =>
  new Map(products.map((row) => [row.sku, marginOf(row)]));

/** Sets what is said of a goal; nothing of it is kept where something is wrong, or asks and is not confirmed. */
export async function setGoal(accountId: number, call: GoalCall): Promise<void> {
  await db().begin(async (tx) => {
    const sql = tx as unknown as Transaction;
    const products = await productsOf(sql, accountId);
    const ground = await groundOf(sql, accountId, call, products);
    const rows = await goalRows(sql, accountId);
    const before = rows.find(({ scope, key }) => scope === call.scope && key === call.key);
    const goal = changedGoal(before, call);
    const problems = problemsOf(goal, rows, ground, marginsOf(products));
    const wrong = problems.find(({ asks }) => !asks) ?? (call.confirmed ? undefined : problems[0]);
    // What stood before is no reason to refuse another change.
    const stood = before && problemsOf(before, rows, ground, marginsOf(products)).map(({ text }) => text);
    if (wrong && !stood?.includes(wrong.text))
      throw new ServiceError(422, wrong.asks ? 'wants_confirmation' : 'bad_goal', wrong.text, {
        field: wrong.field,
      });
    if (saysNothing(goal)) await deleteGoal(sql, accountId, goal.scope, goal.key);
    else await upsertGoals(sql, accountId, [goal]);
    await touchGoals(sql, accountId);
  });
  // A new scope has its own theta from now on, so that the next round can steer it.
  await enqueue(accountId, 'steer', {});
}

/** Removes an override; the wider goal rules again. */
export async function removeGoal(accountId: number, scope: string, key: string): Promise<void> {
  if (scope === 'account')
    throw new ServiceError(422, 'account_goal', 'The account needs a goal. Change it instead.');
  const gone = await deleteGoal(db(), accountId, scope, key);
  if (!gone) throw notFound(`goal of ${scope} ${key}`);
  await touchGoals(db(), accountId);
}

/** Costs of a product by hand. Money in micros, rates as shares; null: unknown. */
export interface CostsCall {
  sku: string;
  unitCost: number | null;
  feeRate: number | null;
  feeFixed: number | null;
  shipping: number | null;
  refundRate: number | null;
}

export async function setProductCosts(accountId: number, call: CostsCall): Promise<void> {
  const { sku, unitCost, feeRate, feeFixed, shipping, refundRate } = call;
  const costs: CostsRow = {
    unit_cost: unitCost,
    fee_rate: feeRate,
    fee_fixed: feeFixed,
    shipping,
    refund_rate: refundRate,
  };
  await db().begin(async (tx) => {
    const sql = tx as unknown as Transaction;
    if (!(await setCosts(sql, accountId, sku, costs))) throw notFound(`product ${sku}`);
    await sql`update account set data_version = data_version + 1, goals_version = goals_version + 1
      where account_id = ${accountId}`;
  });
}
