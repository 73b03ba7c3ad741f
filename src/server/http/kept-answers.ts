import { createHash } from 'node:crypto';
import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { LRUCache } from 'lru-cache';
import { apart } from '../db/connection.ts';

/**
 * Answers that many readers ask for and that change seldom: made once, packed once, sent as they are. A key says all
 * that an answer depends on; whoever has it already is told so.
 */

interface Kept {
  etag: string;
  plain: Buffer;
  packed: Buffer | null;
}

const pack = promisify(gzip);

const mostBytes = 256 * 1024 * 1024;
const kept = new LRUCache<string, Promise<Kept>>({ maxSize: mostBytes });

/** Below this packing costs more than it spares. */
const worthPacking = 1400;

async function keep(make: () => Promise<string>): Promise<Kept> {
  const plain = Buffer.from(await make());
  const packed = plain.length < worthPacking ? null : await pack(plain);
  return { etag: `"${createHash('sha256').update(plain).digest('base64url').slice(0, 24)}"`, plain, packed };
}

/** An answer in JSON under a key; `make` is called where it is not known yet. */
export async function keptAnswer(
  request: Request,
  key: string,
  make: () => Promise<string>,
): Promise<Response> {
  let pending = kept.get(key);
  if (!pending) {
    pending = apart(() => keep(make));
    kept.set(key, pending, { size: 1 });
    pending.then(
      ({ plain, packed }) =>
        kept.set(key, pending!, { size: Math.min(mostBytes, 1 + plain.length + (packed?.length ?? 0)) }),
      () => kept.delete(key),
    );
  }
  const { etag, plain, packed } = await pending;
  const headers = new Headers({ etag, 'cache-control': 'private, no-cache', vary: 'accept-encoding' });
  if (request.headers.get('if-none-match')?.includes(etag))
    return new Response(null, { status: 304, headers });
  headers.set('content-type', 'application/json; charset=utf-8');
  const takesPacked = /\bgzip\b/.test(request.headers.get('accept-encoding') ?? '');
  if (packed === null || !takesPacked) return new Response(new Uint8Array(plain), { headers });
  headers.set('content-encoding', 'gzip');
  return new Response(new Uint8Array(packed), { headers });
}
