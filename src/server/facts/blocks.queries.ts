import { lockAccount } from '../db/locks.ts';
import type { Readable } from 'node:stream';
import type { ReservedSql } from 'postgres';
import type { Day, Window } from '../../core/metrics/days.ts';
import type { Database } from '../db/connection.ts';

/** Facts that are kept by day and read as blocks. */
export type BlockFact = 'target_day' | 'term_day';

/** So many days are made in one transaction: an importer never waits for more. */
const daysAtOnce = 6;

const kindOf: Record<BlockFact, string> = { target_day: 'targets-daily', term_day: 'terms-daily' };

/** Days of a window that a report told. */
const toldDays = (sql: Database, accountId: number, fact: BlockFact, { from, to }: Window) => sql`
  select day from report_day where account_id = ${accountId} and kind = ${kindOf[fact]}
    and day between ${from} and ${to}`;

/** The days of a window that have no block yet, in their order. */
async function daysWithout(sql: Database, accountId: number, fact: BlockFact, window: Window) {
  const rows = await sql<{ day: Day }[]>`
    select day from (${toldDays(sql, accountId, fact, window)}) d
    where not exists (
      select 1 from day_block b where b.account_id = ${accountId} and b.fact = ${fact} and b.day = d.day)
    order by day`;
  return rows.map(({ day }) => day);
}

/**
 * Makes the blocks that are missing in a window out of the raw days. It waits for a load that is under way: what it
 * reads is then what stays. Layout of a body, each part one number per row, all big-endian: target ids (4 bytes), of terms
 * term ids (4), impressions, clicks, orders, units (4 each), spend, sales (8 each, as doubles).
 */
export async function makeBlocks(
  sql: Database,
  accountId: number,
  fact: BlockFact,
  window: Window,
): Promise<void> {
  const missing = await daysWithout(sql, accountId, fact, window);
  for (let i = 0; i < missing.length; i += daysAtOnce) {
    const days = missing.slice(i, i + daysAtOnce);
    await sql.begin(async (tx) => {
      await lockAccount(tx, accountId);
      const column = (name: string) => tx`coalesce(string_agg(int4send(d.${tx(name)}::int4), ''), '')`;
      const wide = (name: string) => tx`coalesce(string_agg(float8send(d.${tx(name)}::float8), ''), '')`;
      await tx`
        insert into day_block (account_id, fact, day, rows, body)
        select ${accountId}, ${fact}, k.day, count(d.day),
          ${column('target_id')} || ${fact === 'term_day' ? column('term_id') : tx`''`}
          || ${column('impressions')} || ${column('clicks')} || ${column('orders')} || ${column('units')}
          || ${wide('spend')} || ${wide('sales')}
        from unnest(${days}::date[]) as k (day)
        left join ${tx(fact)} d on d.account_id = ${accountId} and d.day = k.day
          and d.day between ${days[0]!} and ${days[days.length - 1]!}
        group by k.day
        on conflict do nothing`;
    });
  }
}

/** Parts of a body: who the rows belong to, or what was counted. */
export type Part = 'ids' | 'figures' | 'all';

/**
 * The blocks of a window, as one stream in the binary format of COPY: day and stamp as texts, and the bytes of the part
 * asked for. A block that was made anew has another stamp.
 */
export function blockStream(
  sql: ReservedSql<{ bigint: number }>,
  accountId: number,
  fact: BlockFact,
  { from, to }: Window,
  part: Part,
): Promise<Readable> {
  const width = fact === 'term_day' ? 8 : 4;
  const body =
    part === 'all'
      ? sql`body`
      : part === 'ids'
        ? sql`substring(body from 1 for rows * ${sql.unsafe(String(width))})`
        : sql`substring(body from rows * ${sql.unsafe(String(width))} + 1)`;
  // COPY takes no parameters: every value here is a number, a day or a word of our own.
  const { account, first, last } = {
    account: sql.unsafe(String(Number(accountId))),
    first: sql.unsafe(`'${readDay(from)}'`),
    last: sql.unsafe(`'${readDay(to)}'`),
  };
  return sql`
    copy (select day::text, xmin::text, ${body} from day_block
      where account_id = ${account} and fact = ${sql.unsafe(`'${fact}'`)} and day between ${first} and ${last}
      order by day) to stdout (format binary)`.readable();
}

function readDay(day: Day): Day {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(day)) throw new Error(`"${day}" is no day.`);
  return day;
}
