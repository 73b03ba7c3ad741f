import type { Readable } from 'node:stream';

/**
 * Frees the connection behind an answer of COPY, read to its end or not: what is left is read and dropped. Postgres.js
 * pauses its socket when a chunk is large and may see the end before it is asked for more: asked once more, it goes on.
 */
export async function release(stream: Readable, drain: () => Promise<void>): Promise<void> {
  await drain().catch(() => undefined);
  stream._read(0);
}
