import { connect } from '../../src/server/db/connection.ts';
import { copyInto } from '../../src/server/db/copy.ts';
import type { Transaction } from '../../src/server/db/connection.ts';
import type { Measure } from './measure.ts';

const rounds = 300;

/** Hundreds of COPYs of a few rows within one transaction, as repairs and staging make them, against plain inserts. */
export async function smallCopies(databaseUrl: string): Promise<Measure> {
  const sql = connect(databaseUrl, 1);
  await sql`create table if not exists few (number integer, text text)`;
  const timed = async (write: (tx: Transaction, round: number) => Promise<unknown>) => {
    const start = performance.now();
    await sql.begin(async (tx) => {
      for (let round = 0; round < rounds; round++) await write(tx as Transaction, round);
    });
    return performance.now() - start;
  };
  const inserts = await timed((tx, round) => tx`insert into few values (${round}, 'some text')`);
  const copies = await timed((tx, round) => copyInto(tx, 'few', [`${round}\tsome text\n`]));
  await sql`drop table few`;
  await sql.end();
  return {
    name: 'small-copies',
    value: copies,
    unit: `ms, ${rounds} COPYs in one transaction`,
    reference: `as many inserts (${inserts.toFixed(0)} ms)`,
    ratio: copies / inserts,
    aim: 'at most 4 times',
  };
}
