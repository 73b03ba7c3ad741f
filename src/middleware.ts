import { randomBytes } from 'node:crypto';
import { defineMiddleware } from 'astro:middleware';
import { contentPolicy, refuseCall } from './server/guard.ts';
import { problem, unreachable } from './server/http.ts';
import { log } from './server/log.ts';
import { start } from './server/start.ts';

export const onRequest = defineMiddleware(async ({ request, locals }, next) => {
  const refused = refuseCall(request.method, request.headers);
  if (refused) return problem(403, 'refused', refused);
  if (new URL(request.url).pathname !== '/api/health') {
    try {
      await start();
    } catch (error) {
      log.warn({ error }, 'the server cannot start yet');
      return unreachable();
    }
  }
  const nonce = randomBytes(18).toString('base64');
  (locals as { nonce?: string }).nonce = nonce;
  const response = await next();
  response.headers.set('content-security-policy', contentPolicy(nonce));
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'no-referrer');
  response.headers.set('cross-origin-opener-policy', 'same-origin');
  response.headers.set('cross-origin-resource-policy', 'same-origin');
  if (!response.headers.get('content-type')?.includes('text/html')) return response;
  const html = (await response.text()).replace(/<(script|style)(?=[\s>])/g, `<$1 nonce="${nonce}"`);
  return new Response(html, { status: response.status, headers: response.headers });
});
