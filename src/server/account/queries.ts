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
  lanes_version: number;
  lanes_saved: boolean;
  /** Share of spend set aside to learn about what is quiet or rests. */
  testing_share: number;
  /** Which account this is, wherever a package of it goes. */
  origin: string;
}

export async function accountById(sql: Database, accountId: number): Promise<Account | undefined> {
  const [row] = await sql<Account[]>`
    select * from account where account_id = ${accountId} and removed_at is null`;
  return row;
}

/** Accounts by name, and how far their figures go. */
export async function accountRows(
  sql: Database,
): Promise<Pick<Account, 'account_id' | 'name' | 'currency' | 'source' | 'today'>[]> {
  return sql`
    select account_id, name, currency, source, today from account where removed_at is null
    order by lower(name), account_id`;
}

export interface NewAccount {
  name: string;
  currency: string;
  time_zone: string;
  source: string;
}

/** Makes an account with room for its facts. */
export async function insertAccount(sql: Database, row: NewAccount, targetAcos: number): Promise<number> {
  const [made] = await sql<
    { account_id: number }[]
  >`insert into account ${sql({ ...row })} returning account_id`;
  const { account_id: accountId } = made!;
  await sql`insert into goal (account_id, scope, key, objective, target_acos) values (${accountId}, 'account', '', 'acos', ${targetAcos})`;
  await sql`select ensure_account_facts(${accountId})`;
  return accountId;
}

export async function changeAccount(
  sql: Database,
  accountId: number,
  row: Pick<NewAccount, 'name' | 'currency' | 'time_zone'>,
): Promise<void> {
  await sql`update account set ${sql({ ...row })} where account_id = ${accountId}`;
}

/** What the marketplace says of the account. */
export async function updateAccount(
  sql: Database,
  accountId: number,
  row: { currency: string; time_zone: string; source: string; today: string; limits: object },
): Promise<void> {
  const { currency, time_zone, source, today, limits } = row;
  await sql`
    update account set currency = ${currency}, time_zone = ${time_zone}, source = ${source},
      today = ${today}, limits = ${sql.json(limits as never)}
    where account_id = ${accountId}`;
}

/** Gives an account that holds nothing yet the name and currency of what is loaded into it. */
export async function nameEmptyAccount(
  sql: Database,
  accountId: number,
  name: string,
  currency: string | null,
): Promise<void> {
  await sql`
    update account set name = ${name}, currency = coalesce(${currency}, currency)
    where account_id = ${accountId} and today is null`;
}

export async function touchData(sql: Database | Transaction, accountId: number): Promise<void> {
  await sql`update account set data_version = data_version + 1 where account_id = ${accountId}`;
}

export async function touchGoals(sql: Database | Transaction, accountId: number): Promise<void> {
  await sql`update account set goals_version = goals_version + 1 where account_id = ${accountId}`;
}

/** Adds products or changes those known; money in micros. What a row leaves out stays as it was known. */
export async function upsertProducts(
  sql: Database | Transaction,
  accountId: number,
  rows: Record<string, unknown>[],
): Promise<void> {
  await sql`
    insert into product (account_id, sku, item_code, title, brand, category, price, unit_cost, fee_rate, fee_fixed,
      shipping, refund_rate, rating, stock)
    select distinct on (sku) ${accountId}::bigint, sku, item_code, title, brand, category, price, unit_cost, fee_rate,
      fee_fixed, shipping, refund_rate, rating, stock
    from jsonb_to_recordset(${sql.json(rows as never)}) as p (sku text, item_code text, title text, brand text,
      category text, price bigint, unit_cost bigint, fee_rate float8, fee_fixed bigint, shipping bigint,
      refund_rate float8, rating float8, stock int)
    on conflict (account_id, sku) do update set item_code = excluded.item_code, title = excluded.title,
      price = excluded.price, brand = coalesce(excluded.brand, product.brand),
      category = coalesce(excluded.category, product.category),
      unit_cost = coalesce(excluded.unit_cost, product.unit_cost),
      fee_rate = coalesce(excluded.fee_rate, product.fee_rate),
      fee_fixed = coalesce(excluded.fee_fixed, product.fee_fixed),
      shipping = coalesce(excluded.shipping, product.shipping),
      refund_rate = coalesce(excluded.refund_rate, product.refund_rate),
      rating = coalesce(excluded.rating, product.rating), stock = coalesce(excluded.stock, product.stock)`;
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
  category: string | null;
  rating: number | null;
}

export async function productsOf(sql: Database | Transaction, accountId: number): Promise<ProductRow[]> {
  return sql<ProductRow[]>`
    select sku, item_code, title, price, unit_cost, fee_rate, fee_fixed, shipping, refund_rate, stock,
      category, rating
    from product where account_id = ${accountId} order by sku`;
}

export async function sightsOf(
  sql: Database,
  accountId: number,
): Promise<{ day: string; age: number; orders: number }[]> {
  return sql`
    select day, age, orders from day_sight where account_id = ${accountId} and kind = 'targets-daily'`;
}

/** All versions of an account and of its sheets that have not left, as one text. */
export async function versionsOf(sql: Database, accountId: number): Promise<string> {
  const [row] = await sql<{ versions: string }[]>`
    select concat_ws('|', origin, today, data_version, goals_version, lanes_version, structure_version,
      (select string_agg(s.sheet_id || ':' || s.version, ' ' order by s.sheet_id) from sheet s
        where s.account_id = a.account_id and s.state <> 'sent')) as versions
    from account a where account_id = ${accountId}`;
  return row?.versions ?? '';
}
