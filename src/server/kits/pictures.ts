import { createHash } from 'node:crypto';
import { imageSize } from 'image-size';
import { counted } from '../../core/metrics/format.ts';
import type { KitPicture } from '../../core/kits/types.ts';
import { getAccount } from '../account/account.ts';
import { db } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { kitLimitsOf } from './desk.ts';
import { insertPicture, pictureById } from './queries.ts';

/** Pictures of kits: kept here until the sheet that needs them is sent. */

const types: Readonly<Record<string, string>> = { png: 'image/png', jpg: 'image/jpeg' };

/** What a file is by what it holds, whatever it is called; throws what is wrong with it. */
function typeOf(bytes: Uint8Array, name: string, limits: { pixels: number; bytes: number }): string {
  const wrong = (code: string, message: string): never => {
    throw new ServiceError(422, code, `${name}: ${message}`, { field: 'picture' });
  };
  if (limits.pixels === 0) wrong('no_pictures', 'the marketplace of this account takes no pictures.');
  if (bytes.length > limits.bytes)
    wrong(
      'picture_too_big',
      `it has ${counted(bytes.length, 'byte')}, ${counted(limits.bytes, 'byte')} are the most.`,
    );
  const size = (() => {
    try {
      return imageSize(bytes);
    } catch {
      return null;
    }
  })();
  const type = types[size?.type ?? ''];
  if (!size || type === undefined)
    return wrong('bad_picture', 'it is no JPEG or PNG picture, whatever it is called.');
  const { pixels } = limits;
  if (size.width !== pixels || size.height !== pixels)
    wrong(
      'picture_size',
      `it has ${size.width} x ${size.height} pixels; exactly ${pixels} x ${pixels} are needed.`,
    );
  return type;
}

/** Keeps a picture; the same file sent twice is there once. */
export async function keepPicture(accountId: number, name: string, bytes: Uint8Array): Promise<KitPicture> {
  const { creatives } = kitLimitsOf(await getAccount(db(), accountId));
  const type = typeOf(bytes, name, creatives);
  const id = createHash('sha256').update(bytes).digest('hex');
  await insertPicture(db(), accountId, { pictureId: id, name, type }, bytes);
  return { id, name };
}

export async function pictureOf(accountId: number, id: string): Promise<{ type: string; bytes: Uint8Array }> {
  const picture = await pictureById(db(), accountId, id);
  if (!picture) throw notFound(`picture ${id.slice(0, 64)}`);
  return picture;
}
