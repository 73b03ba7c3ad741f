import { upsertProducts } from '../../account/queries.ts';
import { marginOf } from '../../account/account.ts';
import { productsOf, touchGoals } from '../../account/queries.ts';
import type { Transaction } from '../../db/connection.ts';
import { campaignsOf, upsertGoal } from '../../goals/queries.ts';
import { inBatches, noDays, type Loader } from './loader.ts';
import type { RowCheck } from '../files/read.ts';
import { textOf } from '../files/read.ts';

/** Files of products and of goals. */

export function openProducts(tx: Transaction, accountId: number): Loader {
  const check: RowCheck = ({ refund_rate, fee_rate }) => {
    const column = Object.entries({ refund_rate, fee_rate }).find(([, rate]) => (rate as number) > 1)?.[0];
    return column ? { column, reason: 'It is above 1: write it as 0.15 or as 15%.' } : null;
  };
  return inBatches(
    check,
    (rows) => upsertProducts(tx, accountId, rows),
    () => Promise.resolve(noDays),
  );
}

const scopes = ['account', 'product', 'campaign'];
type Scope = 'account' | 'product' | 'campaign';

/** A goal that is told as a margin after ads is kept as the ACOS that leaves it: margin before ads less target margin. */
export async function openGoals(tx: Transaction, accountId: number): Promise<Loader> {
  const products = await productsOf(tx, accountId);
  const campaigns = await campaignsOf(tx, accountId);
  const keyOf = (scope: Scope, name: string): string | undefined => {
    if (scope === 'account') return '';
    return scope === 'product'
      ? products.find(({ sku, title }) => sku === name || title === name)?.sku
      : campaigns.find((one) => one.extId === name || one.name === name)?.campaignId;
  };
  const check: RowCheck = (values) => {
    const scope = textOf(values.scope)!.toLowerCase();
    if (!scopes.includes(scope))
      return { column: 'scope', reason: `Goals are kept for ${scopes.join(', ')}; not for this.` };
    values.scope = scope;
    const name = textOf(values.id) ?? textOf(values.name) ?? '';
    const key = keyOf(scope as Scope, name);
    if (key === undefined)
      return { column: values.id ? 'id' : 'name', reason: `There is no ${scope} “${name}” here.` };
    values.key = key;
    if (values.target_acos == null) {
      const margin = products.find(({ sku }) => scope === 'product' && sku === key);
      const before = margin ? marginOf(margin) : null;
      if (values.target_margin == null) return { column: 'target_acos', reason: 'It says no goal.' };
      if (before === null)
        return { column: 'target_margin', reason: 'A target margin needs a product whose costs are known.' };
      values.target_acos = before - (values.target_margin as number);
    }
    if (!((values.target_acos as number) > 0))
      return { column: 'target_acos', reason: 'It leaves nothing to spend: the goal must be above 0.' };
    const [floor, ceiling] = [values.bid_floor as number | null, values.bid_ceiling as number | null];
    return floor !== null && ceiling !== null && floor > ceiling
      ? { column: 'bid_floor', reason: 'The floor lies above the ceiling.' }
      : null;
  };
  return inBatches(
    check,
    async (rows) => {
      for (const row of rows) {
        await upsertGoal(tx, accountId, {
          scope: row.scope as Scope,
          key: row.key as string,
          targetAcos: row.target_acos as number,
          bidFloor: (row.bid_floor ?? null) as number | null,
          bidCeiling: (row.bid_ceiling ?? null) as number | null,
        });
      }
    },
    async () => {
      await touchGoals(tx, accountId);
      return noDays;
    },
  );
}
