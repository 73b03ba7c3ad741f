import type { Readable } from 'node:stream';
import type { Day, Window } from '../../core/metrics/days.ts';
import type { Database } from '../db/connection.ts';
import { release } from '../db/copy.ts';
import { blockStream, makeBlocks, type BlockFact, type Part } from './blocks.queries.ts';

/** The rows of a day, a column each; columns that were not asked for are empty. */
export interface Block {
  day: Day;
  /** Two blocks of a day with one stamp hold the same rows in the same order. */
  stamp: string;
  rows: number;
  targetId: Int32Array;
  /** Empty for facts of targets. */
  termId: Int32Array;
  impressions: Int32Array;
  clicks: Int32Array;
  orders: Int32Array;
  units: Int32Array;
  /** Micros. */
  spend: Float64Array;
  sales: Float64Array;
}

const copyHeader = 19;

/** Takes chunks as they come and gives as many bytes as are asked for. */
class Bytes {
  private readonly chunks: Buffer[] = [];
  private length = 0;

  constructor(private readonly source: AsyncIterator<Buffer>) {}

  async take(count: number): Promise<Buffer> {
    while (this.length < count) {
      const { value, done } = await this.source.next();
      if (done) throw new Error(`The blocks end ${count - this.length} bytes early.`);
      this.chunks.push(value);
      this.length += value.length;
    }
    const all = this.chunks.length === 1 ? this.chunks[0]! : Buffer.concat(this.chunks, this.length);
    this.chunks.length = 0;
    if (all.length > count) this.chunks.push(all.subarray(count));
    this.length -= count;
    return all.subarray(0, count);
  }

  async drain(): Promise<void> {
    while (!(await this.source.next()).done);
  }
}

/** The tuples of COPY's binary format. */
async function* tuples(stream: Readable): AsyncGenerator<{ day: Day; stamp: string; body: Buffer }> {
  const bytes = new Bytes(stream[Symbol.asyncIterator]() as AsyncIterator<Buffer>);
  try {
    await bytes.take(copyHeader);
    const field = async () => bytes.take((await bytes.take(4)).readInt32BE());
    // -1 ends the answer.
    while ((await bytes.take(2)).readInt16BE() === 3) {
      const day = (await field()).toString('latin1');
      const stamp = (await field()).toString('latin1');
      yield { day, stamp, body: await field() };
    }
  } finally {
    await release(stream, () => bytes.drain());
  }
}

/** Cuts columns off a body, one after the other, into memory of their own in this machine's byte order. */
function cutter(body: Buffer) {
  let at = 0;
  const cut = (bytes: number): ArrayBuffer => {
    const part = new ArrayBuffer(bytes);
    body.copy(Buffer.from(part), 0, at, (at += bytes));
    return part;
  };
  return {
    ints: (rows: number) => {
      const part = cut(rows * 4);
      Buffer.from(part).swap32();
      return new Int32Array(part);
    },
    doubles: (rows: number) => {
      const part = cut(rows * 8);
      Buffer.from(part).swap64();
      return new Float64Array(part);
    },
  };
}

const noInts = new Int32Array(0);
const noDoubles = new Float64Array(0);

function decode(day: Day, stamp: string, body: Buffer, fact: BlockFact, part: Part): Block {
  const idWidth = fact === 'term_day' ? 8 : 4;
  const width = (part === 'figures' ? 0 : idWidth) + (part === 'ids' ? 0 : 32);
  const rows = body.length / width;
  if (!Number.isInteger(rows)) throw new Error(`The block of ${fact} on ${day} is broken.`);
  const { ints, doubles } = cutter(body);
  const ids = part !== 'figures';
  const figures = part !== 'ids';
  return {
    day,
    stamp,
    rows,
    targetId: ids ? ints(rows) : noInts,
    termId: ids && fact === 'term_day' ? ints(rows) : noInts,
    impressions: figures ? ints(rows) : noInts,
    clicks: figures ? ints(rows) : noInts,
    orders: figures ? ints(rows) : noInts,
    units: figures ? ints(rows) : noInts,
    spend: figures ? doubles(rows) : noDoubles,
    sales: figures ? doubles(rows) : noDoubles,
  };
}

/**
 * The days of a window in their order, each as a block; what is missing is made first. The connection is held by this
 * reading alone: Postgres.js would send other statements down one whose answer is still being read, where they fail, or
 * wait for ever when the reader waits for them. So nothing may be asked of the same pool between two blocks.
 */
export async function* blocksOf(
  sql: Database,
  accountId: number,
  fact: BlockFact,
  window: Window,
  part: Part = 'all',
): AsyncGenerator<Block> {
  await makeBlocks(sql, accountId, fact, window);
  const held = await sql.reserve();
  try {
    const stream = await blockStream(held, accountId, fact, window, part);
    for await (const { day, stamp, body } of tuples(stream)) yield decode(day, stamp, body, fact, part);
  } finally {
    held.release();
  }
}
