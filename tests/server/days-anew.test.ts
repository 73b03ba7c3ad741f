import { afterAll, beforeAll, expect, test } from 'vitest';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { LoadedAccount } from '../../src/server/memory/load.ts';
import { makeDatabase } from '../support/stack.ts';

/** Days that change under an account in memory: where their rows belong is kept, and must not be kept too long. */

const window = { from: '2026-10-01', to: '2026-11-10' };
let sql: Database;

beforeAll(async () => {
  // One connection: whoever asks for another while an answer is being read would wait for ever.
  sql = connect(await makeDatabase('mowing_seed'), 1);
});
afterAll(() => sql.end());

/** Clicks of every pair, from the raw days. */
async function plain(): Promise<Map<string, number>> {
  const rows = await sql<{ target_id: number; text: string; clicks: number }[]>`
    select target_id, text, sum(clicks)::int as clicks from term_day join term using (account_id, term_id)
    where day between ${window.from} and ${window.to} group by target_id, text having sum(clicks) > 0`;
  return new Map(rows.map(({ target_id, text, clicks }) => [`${target_id} ${text}`, clicks]));
}

async function inMemory(account: LoadedAccount): Promise<Map<string, number>> {
  const { pairs } = await account.frame(window, 'pairs');
  const { target, term, texts } = account.pairs!;
  const clicks = new Map<string, number>();
  target.forEach((at, row) => {
    const name = `${account.objects.targets[at]!.id} ${texts[term[row]!]}`;
    if (pairs!.clicks[row]! > 0) clicks.set(name, pairs!.clicks[row]!);
  });
  return clicks;
}

test('a day that is loaded again after its pairs were met is read with its own rows', async () => {
  const account = (await LoadedAccount.open(sql, 1))!;
  await account.needPairs();
  // The day comes back in another order, without its first rows, with other clicks.
  const day = '2026-11-03';
  await sql.begin(async (tx) => {
    await tx`create temp table again on commit drop as
      select account_id, day, target_id, term_id, impressions, clicks + 3 as clicks, spend, orders, units, sales
      from term_day where day = ${day} order by term_id desc, target_id offset 5`;
    await tx`delete from term_day where day = ${day}`;
    await tx`insert into term_day select * from again`;
    await tx`delete from day_block where fact = 'term_day' and day = ${day}`;
  });
  expect(await inMemory(account)).toEqual(await plain());
});
