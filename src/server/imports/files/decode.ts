import type { Encoding } from '../../../answers/imports.ts';
import { open } from 'node:fs/promises';
import { createReadStream } from 'node:fs';

/** The encoding of a file from its first bytes: by BOM, by zero bytes, by whether it is valid UTF-8. */
export function encodingOf(head: Uint8Array, whole: boolean): Encoding {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  if (head[0] === 0xfe && head[1] === 0xff) return 'utf-16be';
  let even = 0;
  let odd = 0;
  for (let i = 0; i < head.length; i++) if (head[i] === 0) i % 2 === 0 ? even++ : odd++;
  if (odd > head.length / 5) return 'utf-16le';
  if (even > head.length / 5) return 'utf-16be';
  try {
    // A cut may fall within a sign: the last bytes of a part of a file do not count.
    new TextDecoder('utf-8', { fatal: true }).decode(head, { stream: !whole });
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}

export async function readHead(path: string, bytes = 256 * 1024) {
  const file = await open(path);
  try {
    const { size } = await file.stat();
    const { buffer, bytesRead } = await file.read(
      Buffer.alloc(Math.min(bytes, size)),
      0,
      Math.min(bytes, size),
      0,
    );
    return { head: buffer.subarray(0, bytesRead), size, whole: bytesRead >= size };
  } finally {
    await file.close();
  }
}

/** Text without BOM out of a part of a file. */
export const decodeHead = (head: Uint8Array, encoding: Encoding): string =>
  new TextDecoder(encoding).decode(head, { stream: true });

/** The file as pieces of text, whatever its encoding. */
export async function* textOfFile(path: string, encoding: Encoding): AsyncGenerator<string, void> {
  const decoder = new TextDecoder(encoding);
  for await (const chunk of createReadStream(path, { highWaterMark: 64 * 1024 }))
    yield decoder.decode(chunk as Buffer, { stream: true });
  yield decoder.decode();
}
