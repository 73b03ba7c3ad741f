import { bytesOf, reads } from '../../../../../server/http/http.ts';
import { keepPicture } from '../../../../../server/kits/index.ts';

/** Keeps a picture's file for kits (?name): JPEG or PNG of the marketplace's size. Sent twice it is there once. */
export const POST = reads(async ({ accountId, context, query }) =>
  keepPicture(accountId, (query.get('name') ?? 'picture').slice(0, 200), await bytesOf(context.request)),
);
