import { lineFields, type Field, type FieldEntity } from '../../core/changes/fields.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Fields of `core/changes/fields.ts` as SQL: their live values, and applied lines brought into them. */

/** Where objects stand, and the letter that a line's own one goes by (see `withObjects`). Modifiers are rows of their own. */
const tables: Record<
  Exclude<FieldEntity, 'placement_modifier'>,
  { table: string; key: string; alias: string }
> = {
  campaign: { table: 'campaign', key: 'campaign_id', alias: 'c' },
  ad_group: { table: 'ad_group', key: 'ad_group_id', alias: 'g' },
  target: { table: 'target', key: 'target_id', alias: 't' },
  negative: { table: 'negative', key: 'negative_id', alias: 'n' },
};

const types: Record<Field['kind'], string> = {
  money: 'bigint',
  percent: 'float8',
  day: 'date',
  status: 'text',
  choice: 'text',
  text: 'text',
  schedule: 'text',
  rule: 'jsonb',
};

const ofObjects = lineFields.filter(
  (field): field is Field & { entity: keyof typeof tables } => field.entity !== 'placement_modifier',
);

/** The live value of what a line changes, as text; null where it changes none. Wants `withObjects` in its query. */
export const nowValue = (sql: Database | Transaction) => sql`
  case l.entity ${Object.keys(tables).map(
    (entity) => sql`
    when ${entity} then case l.field ${ofObjects
      .filter((field) => field.entity === entity)
      .map(({ name, column }) => {
        const { alias } = tables[entity as keyof typeof tables];
        return sql`when ${name} then ${sql(`${alias}.${column}`)}::text `;
      })} end`,
  )}
    when 'placement_modifier' then
      (select m.modifier::text from placement_modifier m where m.account_id = l.account_id
        and m.campaign_id = c.campaign_id and m.placement = l.field)
  end`;

/** Whether what a line changes is no longer what it was when the line was made. Wants `withObjects` in its query. */
export const isOvertaken = (sql: Database | Transaction) => sql`
  case when l.entity = 'ad_group' and l.field = 'rule' then g.rule is distinct from l.old_value::jsonb
    else coalesce(${nowValue(sql)}, '') <> coalesce(l.old_value, '') end`;

/** The objects that a line `l` names: campaign `c`, ad group `g`, target `t`, negative `n`; `pc`, `pg` while planned. */
export const withObjects = (sql: Database | Transaction) => sql`
  left join planned pc on pc.account_id = l.account_id and pc.entity = 'campaign' and pc.object_id = l.campaign_id::bigint
  left join planned pg on pg.account_id = l.account_id and pg.entity = 'ad_group' and pg.object_id = l.ad_group_id::bigint
  left join campaign c on c.account_id = l.account_id and c.campaign_id = l.campaign_id::bigint
  left join ad_group g on g.account_id = l.account_id and g.ad_group_id = l.ad_group_id::bigint
  left join lateral (
    -- Looked up line by line: a few lines must not read all targets, whatever the planner thinks there will be.
    select x.* from target x
    where x.account_id = l.account_id and x.target_id = case when l.entity = 'target' then l.object_id::bigint end
    limit 1) t on true
  left join lateral (
    select x.* from negative x
    where x.account_id = l.account_id and x.negative_id = case when l.entity = 'negative' then l.object_id::bigint end
    limit 1) n on true`;

/** Names of a line's campaign and ad group. Wants `withObjects` in its query. */
export const placeNames = (sql: Database | Transaction) => sql`
  coalesce(c.name, pc.name) as campaign, coalesce(g.name, pg.name) as ad_group`;

/** Brings the applied lines of a batch that set a field into the account as it stands. */
export async function applyFields(
  tx: Transaction,
  accountId: number,
  batchId: string,
  today: string,
): Promise<void> {
  const [row] = await tx<{ changed: string[] }[]>`
    select coalesce(array_agg(distinct entity || '.' || case when action = 'archive' then 'status' else field end), '{}')
      as changed
    from line where account_id = ${accountId} and batch_id = ${batchId} and state = 'applied'
      and action in ('update', 'archive')`;
  const { changed } = row!;
  for (const { entity, name, column, kind } of ofObjects) {
    if (!changed.includes(`${entity}.${name}`)) continue;
    const { table, key } = tables[entity];
    const value = tx.unsafe(`l.new_value::${types[kind]}`);
    await tx`
      update ${tx(table)} o set ${tx(column)} = ${name === 'status' ? tx`case when l.action = 'archive' then 'archived' else ${value} end` : value}
      from line l
      where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.state = 'applied' and l.entity = ${entity}
        and ${name === 'status' ? tx`(l.action = 'archive' or l.action = 'update' and l.field = 'status')` : tx`l.action = 'update' and l.field = ${name}`}
        and o.account_id = l.account_id and o.${tx(key)} = l.object_id::bigint`;
  }
  if (changed.includes('target.bid')) await noteBids(tx, accountId, batchId, today);
  await tx`
    insert into placement_modifier
    select ${accountId}, l.campaign_id::bigint, l.field, l.new_value::float8 from line l
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.state = 'applied'
      and l.entity = 'placement_modifier'
    on conflict (account_id, campaign_id, placement) do update set modifier = excluded.modifier`;
}

/** The day of a changed bid, and its step in the history of the target. */
async function noteBids(tx: Transaction, accountId: number, batchId: string, today: string): Promise<void> {
  const changed = tx`l.account_id = ${accountId} and l.batch_id = ${batchId} and l.state = 'applied'
    and l.entity = 'target' and l.action = 'update' and l.field = 'bid'`;
  await tx`
    update target t set bid_changed_on = ${today}::date from line l
    where ${changed} and t.account_id = l.account_id and t.target_id = l.object_id::bigint`;
  await tx`
    insert into target_bid
    select ${accountId}, l.object_id::bigint, ${today}::date, l.new_value::bigint from line l where ${changed}
    on conflict (account_id, target_id, day) do update set bid = excluded.bid`;
}
