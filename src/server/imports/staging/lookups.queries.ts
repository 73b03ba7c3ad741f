import type { Transaction } from '../../db/connection.ts';

/** Objects of the account by the marketplace's id (with `#` before it) and by their path. */
export interface Lookups {
  campaigns: Map<string, string>;
  /** Path: campaign, name. */
  adGroups: Map<string, string>;
  /** Path: ad group, match type, expression. */
  targets: Map<string, string>;
  /** Path: campaign, ad group, match type, expression. */
  negatives: Map<string, string>;
}

interface Known {
  id: string;
  ext: string | null;
  path: string;
}

const byName = (rows: Known[]): Map<string, string> =>
  new Map(
    rows.flatMap(({ id, ext, path }) => [[path, id] as const, ...(ext ? [[`#${ext}`, id] as const] : [])]),
  );

export async function lookupsOf(tx: Transaction, accountId: number): Promise<Lookups> {
  const campaigns = await tx<Known[]>`
    select campaign_id::text as id, ext_id as ext, name as path from campaign where account_id = ${accountId}`;
  const adGroups = await tx<Known[]>`
    select ad_group_id::text as id, ext_id as ext, campaign_id || chr(9) || name as path from ad_group
    where account_id = ${accountId}`;
  const targets = await tx<Known[]>`
    select target_id::text as id, ext_id as ext,
      ad_group_id || chr(9) || coalesce(match_type, '') || chr(9) || expression as path
    from target where account_id = ${accountId}`;
  const negatives = await tx<Known[]>`
    select negative_id::text as id, ext_id as ext, campaign_id || chr(9) || coalesce(ad_group_id::text, '') || chr(9)
      || match_type || chr(9) || expression as path
    from negative where account_id = ${accountId}`;
  return {
    campaigns: byName(campaigns),
    adGroups: byName(adGroups),
    targets: byName(targets),
    negatives: byName(negatives),
  };
}
