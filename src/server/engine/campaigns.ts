import type { Objects } from '../../core/account/store.ts';
import type { TargetsInput } from '../../core/round/types.ts';
import { structureCampaigns, type StructureCampaign } from '../../core/structure/ground.ts';
import type { Database } from '../db/connection.ts';
import { advertised } from '../facts/evidence-days.queries.ts';

/** What each ad group advertises, by its id. */
async function skusByAdGroup(sql: Database, accountId: number): Promise<Map<string, string[]>> {
  const found = new Map<string, string[]>();
  for (const { ad_group_id: id, sku } of await advertised(sql, accountId)) {
    const own = found.get(id);
    if (own) own.push(sku);
    else found.set(id, [sku]);
  }
  return found;
}

const known = new WeakMap<TargetsInput, Promise<StructureCampaign[]>>();

/** Running campaigns with what is believed of their targets: made once for an input, whoever judges by them. */
export function campaignsOf(
  sql: Database,
  accountId: number,
  objects: Objects,
  input: TargetsInput,
): Promise<StructureCampaign[]> {
  let pending = known.get(input);
  if (!pending) {
    pending = skusByAdGroup(sql, accountId).then((skus) => structureCampaigns(objects, input, skus));
    known.set(input, pending);
    pending.catch(() => known.delete(input));
  }
  return pending;
}
