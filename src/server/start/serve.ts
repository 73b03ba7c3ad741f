import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { fileURLToPath } from 'node:url';
import sirv from 'sirv';
import { config } from '../config.ts';
import { alwaysHeaders, contentPolicy, methods, refuseCall } from '../http/guard.ts';

/**
 * The process that listens: the same headers on every answer, static files, and what no page could answer (addresses that
 * cannot be read, methods that nothing takes). Everything else goes to the built application. Bundled to dist/serve.mjs.
 */

type Handler = (request: IncomingMessage, response: ServerResponse) => Promise<void>;

const built = fileURLToPath(new URL('./server/entry.mjs', import.meta.url));
const { handler } = (await import(built)) as { handler: Handler };

const files = sirv(fileURLToPath(new URL('./client', import.meta.url)), {
  etag: true,
  setHeaders: (response, path) => {
    const lasting = path.startsWith('/_astro/');
    response.setHeader('cache-control', lasting ? 'public, max-age=31536000, immutable' : 'no-cache');
  },
});

function refuse(response: ServerResponse, status: number, code: string, detail: string): void {
  response.writeHead(status, {
    'content-type': 'application/problem+json; charset=utf-8',
    'cache-control': 'no-store',
    ...(status === 405 ? { allow: methods.join(', ') } : {}),
  });
  response.end(
    JSON.stringify({ type: `about:blank#${code}`, title: code.replaceAll('_', ' '), status, detail, code }),
  );
}

/** The path of an address as text; null when its escapes are no text. */
function pathOf(url: string): string | null {
  try {
    const path = decodeURIComponent(new URL(url, 'http://mowing').pathname);
    return path.includes('\0') ? null : path;
  } catch {
    return null;
  }
}

/** No address of the API has anything else in its path. */
const plainPath = /^(\/[\w.~-]*)+$/;

function answer(request: IncomingMessage, response: ServerResponse): void {
  for (const [name, value] of Object.entries(alwaysHeaders)) response.setHeader(name, value);
  response.setHeader('content-security-policy', contentPolicy());
  const { method = '', url = '/' } = request;
  if (!methods.includes(method))
    return refuse(response, 405, 'method_not_allowed', `${method.slice(0, 20)} is not taken here.`);
  const path = pathOf(url);
  if (path === null) return refuse(response, 400, 'bad_address', 'This address cannot be read.');
  if (path.startsWith('/api/') && !plainPath.test(path))
    return refuse(response, 404, 'not_found', `There is nothing under ${path.slice(0, 200)}.`);
  const refused = refuseCall(method, new Headers(request.headers as Record<string, string>));
  if (refused) return refuse(response, 403, 'refused', refused);
  files(request, response, () => void handler(request, response));
}

const server = createServer((request, response) => {
  try {
    answer(request, response);
  } catch {
    if (response.headersSent) response.destroy();
    else refuse(response, 400, 'bad_request', 'This call cannot be read.');
  }
});
server.on('clientError', (_, socket) => {
  if (socket.writable) socket.end('HTTP/1.1 400 Bad Request\r\nConnection: close\r\n\r\n');
});
server.listen(config.port, config.host, () => {
  process.stdout.write(`Mowing listens on http://${config.host}:${config.port}\n`);
});

let ending = false;
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    if (ending) process.exit(1);
    ending = true;
    // Calls that are at work end; what is open for events is cut.
    server.close(() => process.exit(0));
    server.closeIdleConnections();
    setTimeout(() => process.exit(0), 1500).unref();
  });
