import type { Database, Transaction } from '../db/connection.ts';

export async function relevantWords(sql: Database, accountId: number): Promise<string[]> {
  const rows = await sql<{ words: string }[]>`
    select words from relevant_words where account_id = ${accountId} order by words`;
  return rows.map(({ words }) => words);
}

export async function setRelevant(
  sql: Database | Transaction,
  accountId: number,
  words: string[],
  relevant: boolean,
): Promise<void> {
  if (relevant) {
    await sql`
      insert into relevant_words (account_id, words) select ${accountId}, w from unnest(${words}::text[]) as u (w)
      on conflict do nothing`;
  } else {
    await sql`delete from relevant_words where account_id = ${accountId} and words = any(${words}::text[])`;
  }
}

/** Running campaigns that advertise a product; without one, those of every product that these campaigns advertise. */
export async function campaignsOfProduct(
  sql: Database,
  accountId: number,
  sku: string | null,
  campaignIds: string[],
): Promise<string[]> {
  const rows = await sql<{ id: string }[]>`
    select distinct c.campaign_id::text as id
    from campaign c join ad_group g on g.account_id = c.account_id and g.campaign_id = c.campaign_id
    join product_ad p on p.account_id = g.account_id and p.ad_group_id = g.ad_group_id and p.status = 'enabled'
    where c.account_id = ${accountId} and c.status = 'enabled' and g.status = 'enabled' and p.sku in (
      select q.sku from product_ad q join ad_group h on h.account_id = q.account_id and h.ad_group_id = q.ad_group_id
      where q.account_id = ${accountId} and q.status = 'enabled'
        and (q.sku = ${sku} or (${sku}::text is null and h.campaign_id::text = any(${campaignIds}::text[]))))`;
  return rows.map(({ id }) => id);
}
