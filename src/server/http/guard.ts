/** Until there is sign-in: only this machine, and only our own pages, may call. */

/** What may be called at all. */
export const methods: readonly string[] = ['GET', 'HEAD', 'POST', 'PUT', 'DELETE'];

/** On every answer, whatever it is. */
export const alwaysHeaders = {
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'no-referrer',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
};

const loopback = new Set(['127.0.0.1', 'localhost', '[::1]']);

const hostName = (host: string): string => host.replace(/:\d+$/, '').toLowerCase();

/** Why a call is refused, or null when it may pass. */
export function refuseCall(method: string, headers: Headers): string | null {
  const host = headers.get('host') ?? '';
  // A name that was rebound to loopback still arrives under its own name.
  if (!loopback.has(hostName(host)))
    return `This address is not served under the name ${hostName(host) || '(none)'}.`;
  const origin = headers.get('origin');
  if (origin !== null && origin !== `http://${host}`) return 'Calls from other sites are refused.';
  const site = headers.get('sec-fetch-site');
  const fromElsewhere = site === 'cross-site' || site === 'same-site';
  const navigates = method === 'GET' && headers.get('sec-fetch-mode') === 'navigate';
  if (fromElsewhere && !navigates) return 'Calls from other sites are refused.';
  return null;
}

/** Strict policy: nothing from elsewhere, scripts and styles of our own, and what has the nonce of its page. */
export function contentPolicy(nonce?: string): string {
  const own = nonce === undefined ? "'self'" : `'self' 'nonce-${nonce}'`;
  return [
    "default-src 'none'",
    `script-src ${own}`,
    `style-src ${own}`,
    "img-src 'self' data:",
    "font-src 'self'",
    "connect-src 'self'",
    "form-action 'self'",
    "base-uri 'none'",
    "frame-ancestors 'none'",
  ].join('; ');
}
