import type { NegativeListRow, NegativePlaceRow } from '../../answers/terms.ts';
import type { NegativeType } from '../../core/account/store.ts';
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
  today: string | null,
): Promise<string[]> {
  const rows = await sql<{ id: string }[]>`
    select distinct c.campaign_id::text as id
    from campaign c join ad_group g on g.account_id = c.account_id and g.campaign_id = c.campaign_id
    join product_ad p on p.account_id = g.account_id and p.ad_group_id = g.ad_group_id and p.status = 'enabled'
    where c.account_id = ${accountId} and c.status = 'enabled' and g.status = 'enabled'
      and (c.end_date is null or ${today}::date is null or c.end_date >= ${today}::date) and p.sku in (
      select q.sku from product_ad q join ad_group h on h.account_id = q.account_id and h.ad_group_id = q.ad_group_id
      where q.account_id = ${accountId} and q.status = 'enabled'
        and (q.sku = ${sku} or (${sku}::text is null and h.campaign_id = any(${campaignIds}::bigint[]))))`;
  return rows.map(({ id }) => id);
}

export async function listRows(sql: Database, accountId: number): Promise<NegativeListRow[]> {
  return sql<NegativeListRow[]>`
    select l.list_id as id, l.name,
      (select count(*)::int from negative_list_entry e where e.account_id = l.account_id and e.list_id = l.list_id) as entries,
      (select count(*)::int from negative_list_campaign c join campaign using (account_id, campaign_id)
        where c.account_id = l.account_id and c.list_id = l.list_id)
        as campaigns
    from negative_list l where l.account_id = ${accountId} order by lower(l.name)`;
}

export async function listParts(
  sql: Database,
  accountId: number,
  listId: number,
): Promise<{ entries: { matchType: NegativeType; expression: string }[]; campaignIds: string[] }> {
  const entries = await sql<{ matchType: NegativeType; expression: string }[]>`
    select match_type as "matchType", expression from negative_list_entry
    where account_id = ${accountId} and list_id = ${listId} order by expression, match_type`;
  const campaigns = await sql<{ id: string }[]>`
    select campaign_id::text as id from negative_list_campaign join campaign using (account_id, campaign_id)
    where account_id = ${accountId} and list_id = ${listId} order by campaign_id`;
  return { entries: [...entries], campaignIds: campaigns.map(({ id }) => id) };
}

/** Makes a list, or changes a known one; null when another list has the name, or there is none of this number. */
export async function putList(
  tx: Transaction,
  accountId: number,
  listId: number | null,
  list: { name: string; entries: { matchType: NegativeType; expression: string }[]; campaignIds: string[] },
): Promise<number | null> {
  const [row] =
    listId === null
      ? await tx<{ list_id: number }[]>`
          insert into negative_list (account_id, name) values (${accountId}, ${list.name})
          on conflict do nothing returning list_id`
      : await tx<{ list_id: number }[]>`
          update negative_list set name = ${list.name} where account_id = ${accountId} and list_id = ${listId}
            and not exists (select 1 from negative_list o where o.account_id = ${accountId}
              and lower(o.name) = lower(${list.name}) and o.list_id <> ${listId}) returning list_id`;
  if (!row) return null;
  const id = row.list_id;
  await tx`delete from negative_list_entry where account_id = ${accountId} and list_id = ${id}`;
  await tx`delete from negative_list_campaign where account_id = ${accountId} and list_id = ${id}`;
  await tx`
    insert into negative_list_entry (account_id, list_id, match_type, expression)
    select ${accountId}::bigint, ${id}::bigint, "matchType", expression
    from jsonb_to_recordset(${tx.json(list.entries as never)}) as e ("matchType" text, expression text)
    on conflict do nothing`;
  await tx`
    insert into negative_list_campaign (account_id, list_id, campaign_id)
    select distinct ${accountId}::bigint, ${id}::bigint, c::bigint from unnest(${list.campaignIds}::text[]) as u (c)`;
  return id;
}

export async function removeList(tx: Transaction, accountId: number, listId: number): Promise<boolean> {
  for (const table of ['negative_list_entry', 'negative_list_campaign'])
    await tx`delete from ${tx(table)} where account_id = ${accountId} and list_id = ${listId}`;
  const gone = await tx`
    delete from negative_list where account_id = ${accountId} and list_id = ${listId} returning 1`;
  return gone.length > 0;
}

export interface StandingNegative {
  campaignId: string;
  adGroupId: string | null;
  matchType: NegativeType;
  expression: string;
}

/** Negatives of some campaigns, those that wait on the open sheet among them. */
export async function standingNegatives(
  sql: Database,
  accountId: number,
  campaignIds: readonly string[],
): Promise<StandingNegative[]> {
  return sql<StandingNegative[]>`
    select campaign_id::text as "campaignId", ad_group_id::text as "adGroupId", match_type as "matchType", expression
    from negative where account_id = ${accountId} and status = 'enabled' and campaign_id = any(${campaignIds as string[]}::bigint[])
    union all
    select l.campaign_id, l.ad_group_id, l.match_type, l.expression
    from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and s.state in ('open', 'held', 'sending') and l.state in ('open', 'sending')
      and l.entity = 'negative' and l.action = 'create' and l.campaign_id = any(${campaignIds as string[]}::text[])`;
}

/** Running ad groups with their campaigns: where negatives can stand. */
export async function placeRows(sql: Database, accountId: number): Promise<NegativePlaceRow[]> {
  return sql<NegativePlaceRow[]>`
    select c.campaign_id::text as "campaignId", c.name as campaign, g.ad_group_id::text as "adGroupId",
      g.name as "adGroup", (select min(p.sku) from product_ad p where p.account_id = g.account_id
        and p.ad_group_id = g.ad_group_id and p.status = 'enabled') as sku
    from ad_group g join campaign c on c.account_id = g.account_id and c.campaign_id = g.campaign_id
    where g.account_id = ${accountId} and g.status <> 'archived' and c.status <> 'archived'
    order by c.name, g.name`;
}
