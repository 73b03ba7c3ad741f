import type { APIRoute } from 'astro';
import { problem } from '../../server/http/http.ts';

/** What is no address of the API. */
export const ALL: APIRoute = ({ url }) =>
  problem(404, 'not_found', `There is nothing under ${url.pathname.slice(0, 200)}.`);
