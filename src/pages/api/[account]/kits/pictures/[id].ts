import { reads } from '../../../../../server/http/http.ts';
import { pictureOf } from '../../../../../server/kits/index.ts';

/** A picture's file. */
export const GET = reads(async ({ accountId, context }) => {
  const { type, bytes } = await pictureOf(accountId, context.params.id ?? '');
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: {
      'content-type': type,
      'x-content-type-options': 'nosniff',
      'cache-control': 'private, max-age=86400',
    },
  });
});
