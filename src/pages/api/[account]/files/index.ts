import type { APIRoute } from 'astro';
import { reads } from '../../../../server/http/http.ts';
import { receiveFile } from '../../../../server/imports/index.ts';

/** Takes a file as the body, with ?name=; answers how it would be read. Nothing is loaded yet. */
export const POST: APIRoute = reads(({ accountId, context, query }) =>
  receiveFile(accountId, (query.get('name') ?? 'file.csv').slice(0, 200), context.request.body),
);
