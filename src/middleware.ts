import { randomBytes } from 'node:crypto';
import { defineMiddleware } from 'astro:middleware';
import { openedAccount } from './server/account/index.ts';
import { isUnreachable } from './server/db/connection.ts';
import { ServiceError } from './server/errors.ts';
import { contentPolicy, methods } from './server/http/guard.ts';
import { problem, unreachable } from './server/http/http.ts';
import { log } from './server/log.ts';
import { start } from './server/start/start.ts';

/** Calls of the API that no endpoint takes are answered as problems too. */
function answered(response: Response, method: string, path: string): Response {
  if (!path.startsWith('/api/') || response.headers.get('content-type') !== null) return response;
  if (response.status !== 404 && response.status !== 405) return response;
  const refused = problem(405, 'method_not_allowed', `${path.slice(0, 200)} does not take ${method}.`);
  refused.headers.set('allow', methods.join(', '));
  return refused;
}

/** Pages of an account: there is one of that number, and it is the one that was open last. */
const accountPage = /^\/(\d+)\/[a-z]+\/?$/;

export const onRequest = defineMiddleware(async ({ request, locals, url, cookies }, next) => {
  if (url.pathname !== '/api/health') {
    try {
      await start();
    } catch (error) {
      log.warn({ error }, 'the server cannot start yet');
      if (isUnreachable(error)) return unreachable();
      const message = `Mowing cannot start: ${(error as Error).message}. Was this database made by another version? Nothing was changed.`;
      return problem(503, 'cannot_start', message);
    }
  }
  const nonce = randomBytes(18).toString('base64');
  (locals as { nonce?: string }).nonce = nonce;
  let response: Response;
  const account = accountPage.exec(url.pathname)?.[1];
  try {
    if (account !== undefined) {
      await openedAccount(account);
      cookies.set('account', account, { path: '/', sameSite: 'strict', httpOnly: true, maxAge: 31_536_000 });
    }
    response = answered(await next(), request.method, url.pathname);
  } catch (error) {
    if (!(error instanceof ServiceError) || error.status !== 404) throw error;
    response = await next('/404');
  }
  response.headers.set('content-security-policy', contentPolicy(nonce));
  if (!response.headers.get('content-type')?.includes('text/html')) return response;
  const html = (await response.text()).replace(/<(script|style)(?=[\s>])/g, `<$1 nonce="${nonce}"`);
  return new Response(html, { status: response.status, headers: response.headers });
});
