import type { Database, Transaction } from '../db/connection.ts';

export interface Account {
  account_id: number;
  name: string;
  currency: string;
  time_zone: string;
  source: string;
  today: string | null;
  limits: Record<string, unknown>;
  structure_version: number | null;
  data_version: number;
  goals_version: number;
}

export async function accountById(sql: Database, accountId: number): Promise<Account | undefined> {
  const [row] = await sql<Account[]>`select * from account where account_id = ${accountId}`;
  return row;
}

export async function ensureAccount(sql: Database, accountId: number): Promise<void> {
  await sql.begin(async (tx) => {
    await tx`
      insert into account (account_id, name, currency, time_zone, source)
      values (${accountId}, 'My account', 'EUR', 'UTC', 'files') on conflict do nothing`;
    await tx`
      insert into goal (account_id, scope, key, target_acos) values (${accountId}, 'account', '', 0.3)
      on conflict do nothing`;
  });
}

export async function updateAccount(
  sql: Database,
  accountId: number,
  row: { name: string; currency: string; time_zone: string; source: string; today: string; limits: object },
): Promise<void> {
  const { name, currency, time_zone, source, today, limits } = row;
  await sql`
    update account set name = ${name}, currency = ${currency}, time_zone = ${time_zone}, source = ${source},
      today = ${today}, limits = ${sql.json(limits as never)}
    where account_id = ${accountId}`;
}

export async function touchData(sql: Database | Transaction, accountId: number): Promise<void> {
  await sql`update account set data_version = data_version + 1 where account_id = ${accountId}`;
}

export async function touchGoals(sql: Database | Transaction, accountId: number): Promise<void> {
  await sql`update account set goals_version = goals_version + 1 where account_id = ${accountId}`;
}

export async function replaceProducts(
  sql: Database,
  accountId: number,
  rows: Record<string, unknown>[],
): Promise<void> {
  await sql`
    insert into product
    select ${accountId}, sku, item_code, title, category, round(price * 1e6)::bigint,
      round(unit_cost * 1e6)::bigint, fee_rate, round(fee_fixed * 1e6)::bigint, round(shipping * 1e6)::bigint,
      refund_rate, rating, stock
    from jsonb_to_recordset(${sql.json(rows as never)}) as p (sku text, item_code text, title text, category text,
      price numeric, unit_cost numeric, fee_rate float8, fee_fixed numeric, shipping numeric, refund_rate float8,
      rating float8, stock int)
    on conflict (account_id, sku) do update set item_code = excluded.item_code, title = excluded.title,
      category = excluded.category, price = excluded.price, unit_cost = excluded.unit_cost,
      fee_rate = excluded.fee_rate, fee_fixed = excluded.fee_fixed, shipping = excluded.shipping,
      refund_rate = excluded.refund_rate, rating = excluded.rating, stock = excluded.stock`;
}

export interface ProductRow {
  sku: string;
  item_code: string;
  title: string;
  price: number;
  unit_cost: number | null;
  fee_rate: number | null;
  fee_fixed: number | null;
  shipping: number | null;
  refund_rate: number | null;
  stock: number | null;
}

export async function productsOf(sql: Database, accountId: number): Promise<ProductRow[]> {
  return sql<ProductRow[]>`
    select sku, item_code, title, price, unit_cost, fee_rate, fee_fixed, shipping, refund_rate, stock
    from product where account_id = ${accountId} order by sku`;
}

export async function sightsOf(
  sql: Database,
  accountId: number,
): Promise<{ day: string; age: number; orders: number }[]> {
  return sql`
    select day, age, orders from day_sight where account_id = ${accountId} and kind = 'targets-daily'`;
}
