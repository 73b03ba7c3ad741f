import { marginOf } from '../../account/account.ts';
import { productsOf, touchGoals } from '../../account/queries.ts';
import { campaignsOf, upsertGoal } from '../../goals/queries.ts';
import { column } from '../files/columns.ts';
import type { RowCheck } from '../files/read.ts';
import { textOf } from '../files/read.ts';
import { inBatches, noDays, type Loader } from '../staging/loader.ts';
import type { Kind, Loading } from './kind.ts';

const scopes = ['account', 'product', 'campaign'];
type Scope = 'account' | 'product' | 'campaign';

/** A goal that is told as a margin after ads is kept as the ACOS that leaves it: margin before ads less target margin. */
async function open({ tx, accountId }: Loading): Promise<Loader> {
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

/** Goals of the account, of products and of campaigns. */
export const goals: Kind = {
  columns: [
    column('scope', 'text', 'goal of, level', true),
    column('id', 'text', 'object id, sku, campaign id'),
    column('name', 'text', 'object, campaign, product, title'),
    column('target_acos', 'share', 'goal, acos goal, acos target'),
    column('target_margin', 'share', 'margin goal, margin after ads'),
    column('bid_floor', 'money', 'floor, lowest bid'),
    column('bid_ceiling', 'money', 'ceiling, highest bid'),
  ],
  open,
};
