import type { Database, Transaction } from '../db/connection.ts';

/** Campaigns and ad groups that lines of a sheet make: what is told of them, before and after they are made. */

/** What is told of a campaign beside its budget. */
export interface CampaignSettings {
  kind: 'automatic' | 'manual';
  status: 'enabled' | 'paused';
  strategy: string;
  pacing: 'even' | 'as_it_comes';
  startDate: string | null;
  endDate: string | null;
  /** Per cent by placement. */
  modifiers: Record<string, number>;
}

/** What is told of an ad group beside its default bid. */
export interface AdGroupSettings {
  status: 'enabled' | 'paused';
  relatedCategories: boolean;
}

export type Planned = { objectId: string; campaignId: string; name: string } & (
  { entity: 'campaign'; settings: CampaignSettings } | { entity: 'ad_group'; settings: AdGroupSettings }
);

/** Draws numbers for campaigns or ad groups that are not made yet. */
export async function drawNumbers(
  tx: Transaction,
  table: 'campaign' | 'ad_group',
  count: number,
): Promise<string[]> {
  const rows = await tx<{ id: string }[]>`
    select nextval(pg_get_serial_sequence(${table}, ${`${table}_id`}))::text as id from generate_series(1, ${count}::int)`;
  return rows.map(({ id }) => id);
}

export async function insertPlanned(
  tx: Transaction,
  accountId: number,
  list: readonly Planned[],
): Promise<void> {
  await tx`
    insert into planned (account_id, entity, object_id, campaign_id, name, settings)
    select ${accountId}, p.entity, p."objectId"::bigint, p."campaignId"::bigint, p.name, p.settings
    from jsonb_to_recordset(${tx.json(list as never)})
      as p (entity text, "objectId" text, "campaignId" text, name text, settings jsonb)`;
}

/** What a sheet's lines make. */
export async function plannedOf(
  sql: Database | Transaction,
  accountId: number,
  sheetId: number,
): Promise<Planned[]> {
  return sql<Planned[]>`
    select p.entity, p.object_id::text as "objectId", p.campaign_id::text as "campaignId", p.name, p.settings
    from planned p
    where p.account_id = ${accountId} and exists (
      select 1 from line l where l.account_id = p.account_id and l.sheet_id = ${sheetId} and l.action = 'create'
        and l.entity = p.entity
        and (case p.entity when 'campaign' then l.campaign_id else l.ad_group_id end) = p.object_id::text)`;
}

/** Names of campaigns that stand or wait on a sheet, in lower case. */
export async function takenNames(sql: Database | Transaction, accountId: number): Promise<string[]> {
  const rows = await sql<{ name: string }[]>`
    select lower(name) as name from campaign where account_id = ${accountId} and status <> 'archived'
    union select lower(p.name) from planned p
    join line l on l.account_id = p.account_id and l.entity = 'campaign' and l.action = 'create'
      and l.campaign_id = p.object_id::text and l.state in ('open', 'sending')
    where p.account_id = ${accountId} and p.entity = 'campaign' order by name`;
  return rows.map(({ name }) => name);
}

/** Gives a planned object another name. */
export async function renamePlanned(
  tx: Transaction,
  accountId: number,
  entity: Planned['entity'],
  objectId: string,
  name: string,
): Promise<void> {
  await tx`
    update planned set name = ${name}
    where account_id = ${accountId} and entity = ${entity} and object_id = ${objectId}::bigint`;
}

/** Planned objects whose lines of a batch were applied stand in the account from now on, under the marketplace's ids. */
export async function keepPlanned(tx: Transaction, accountId: number, batchId: string): Promise<void> {
  await tx`
    insert into campaign (account_id, campaign_id, ext_id, name, kind, daily_budget, lifetime_budget, pacing, strategy, start_date, end_date, status)
    overriding system value
    select p.account_id, p.object_id, l.made_ext, p.name, p.settings ->> 'kind',
      case l.field when 'daily_budget' then l.new_value::bigint end,
      case l.field when 'lifetime_budget' then l.new_value::bigint end, p.settings ->> 'pacing', p.settings ->> 'strategy',
      (p.settings ->> 'startDate')::date, (p.settings ->> 'endDate')::date, p.settings ->> 'status'
    from line l join planned p on p.account_id = l.account_id and p.entity = 'campaign' and p.object_id = l.campaign_id::bigint
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.state = 'applied' and l.action = 'create'
      and l.entity = 'campaign'
    on conflict do nothing`;
  await tx`
    insert into placement_modifier
    select p.account_id, p.object_id, m.key, m.value::float8
    from line l join planned p on p.account_id = l.account_id and p.entity = 'campaign' and p.object_id = l.campaign_id::bigint
    cross join jsonb_each_text(p.settings -> 'modifiers') m
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.state = 'applied' and l.action = 'create'
      and l.entity = 'campaign'
    on conflict do nothing`;
  await tx`
    insert into ad_group (account_id, ad_group_id, campaign_id, ext_id, name, default_bid, status)
    overriding system value
    select p.account_id, p.object_id, p.campaign_id, l.made_ext, p.name, l.new_value::bigint, p.settings ->> 'status'
    from line l join planned p on p.account_id = l.account_id and p.entity = 'ad_group' and p.object_id = l.ad_group_id::bigint
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.state = 'applied' and l.action = 'create'
      and l.entity = 'ad_group'
    on conflict do nothing`;
  await tx`
    insert into product_ad (account_id, ad_group_id, sku)
    select l.account_id, l.ad_group_id::bigint, l.expression from line l
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.state = 'applied' and l.action = 'create'
      and l.entity = 'product_ad'
    on conflict (account_id, ad_group_id, sku) do update set status = 'enabled'`;
}
