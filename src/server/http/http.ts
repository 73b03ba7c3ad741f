import type { APIContext, APIRoute } from 'astro';
import type Joi from 'joi';
import { openedAccount } from '../account/account.ts';
import { isOutOfRange, isUnreachable, together } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { once } from './idempotency.ts';
import { keptAnswer } from './kept-answers.ts';
import { log } from '../log.ts';
import { noteWrite, stampOf } from '../account/stamp.ts';

/** What endpoints share: checking what comes in, problem details on the way out, answers kept under their key. */

export const jsonText = (text: string, status = 200): Response =>
  new Response(text, {
    status,
    headers: { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' },
  });

export const json = (value: unknown, status = 200): Response => jsonText(JSON.stringify(value), status);

/** RFC 9457. */
export function problem(status: number, code: string, detail: string, place: object = {}): Response {
  const body = {
    type: `about:blank#${code}`,
    title: code.replaceAll('_', ' '),
    status,
    detail,
    code,
    ...place,
  };
  return new Response(JSON.stringify(body), {
    status,
    headers: { 'content-type': 'application/problem+json; charset=utf-8', 'cache-control': 'no-store' },
  });
}

/** While Postgres is away or starts. */
export function unreachable(): Response {
  const message =
    'The database cannot be reached at the moment. Nothing was half-applied; it is tried again, and so can you.';
  const response = problem(503, 'database_unreachable', message);
  response.headers.set('retry-after', '2');
  return response;
}

function failure(error: unknown): Response {
  if (error instanceof ServiceError) return problem(error.status, error.code, error.message, error.place);
  if (isUnreachable(error)) {
    log.warn({ error }, 'database out of reach');
    return unreachable();
  }
  if (isOutOfRange(error)) {
    log.warn({ error }, 'value out of range');
    return problem(422, 'out_of_range', 'A value of this call is larger or other than can be kept.');
  }
  log.error({ error }, 'request failed');
  return problem(500, 'internal', 'Something went wrong on our side. Nothing was half-applied; try again.');
}

/** Checks a value at the door; the error says which field. */
export function check<T>(schema: Joi.Schema<T>, value: unknown): T {
  const result = schema.validate(value, { abortEarly: true, convert: true });
  if (result.error) {
    const field = result.error.details[0]?.path.join('.') ?? '';
    throw new ServiceError(422, 'bad_request', result.error.message, { field });
  }
  return result.value;
}

export interface Call<T> {
  accountId: number;
  body: T;
  context: APIContext;
  query: URLSearchParams;
}

/** Signs that Postgres keeps in no text, and halves of signs, which no file can hold. */
const unkept = /\u0000|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;

const unkeptAt = (field: string) =>
  new ServiceError(422, 'bad_text', 'It holds a sign that no text can keep.', { field });

/** The query of a call; each value a text that can be kept. */
function queryOf({ url }: APIContext): URLSearchParams {
  for (const [name, value] of url.searchParams) if (unkept.test(value)) throw unkeptAt(name);
  return url.searchParams;
}

/** The number in an address, as `/lists/12`; 404 when it is none. */
export function numberIn({ params }: APIContext, name: string, what: string): number {
  const text = params[name] ?? '';
  if (!/^\d{1,15}$/.test(text)) throw notFound(`${what} ${text.slice(0, 40)}`);
  return Number(text);
}

/** The account of a call; 0 for calls of the installation itself. */
const accountIn = async ({ params }: APIContext): Promise<number> =>
  'account' in params ? openedAccount(params.account) : 0;

/** A call that reads. */
export const reads =
  (handler: (call: Call<undefined>) => Promise<unknown>): APIRoute =>
  async (context) => {
    try {
      const accountId = await accountIn(context);
      const result = await handler({ accountId, body: undefined, context, query: queryOf(context) });
      return result instanceof Response ? result : json(result);
    } catch (error) {
      return failure(error);
    }
  };

/** An answer under all that it depends on: its call, and everything of the account. */
async function keptFor(
  { request, url }: APIContext,
  accountId: number,
  body: string,
  make: () => Promise<unknown>,
): Promise<Response> {
  const key = [accountId, url.pathname, url.search, body, await stampOf(accountId)].join('\n');
  return keptAnswer(request, key, async () => {
    const result = await make();
    return typeof result === 'string' ? result : JSON.stringify(result);
  });
}

/**
 * A call that reads, whose answer is kept while nothing of the account changes: for what many ask, and what is long in
 * the making. The handler answers with a value, or with its JSON as text.
 */
export const readsKept =
  (handler: (call: Call<undefined>) => Promise<unknown>): APIRoute =>
  async (context) => {
    try {
      const accountId = await accountIn(context);
      const query = queryOf(context);
      return await keptFor(context, accountId, '', () =>
        handler({ accountId, body: undefined, context, query }),
      );
    } catch (error) {
      return failure(error);
    }
  };

/** Bodies of calls: the largest honest one names sixty thousand findings. Files come in as streams. */
const mostBytes = 8 * 1024 * 1024;

/** The body of a call as bytes, up to a limit; what is longer is not read to its end. */
export async function bytesOf(request: Request, most = mostBytes): Promise<Uint8Array> {
  const tooLarge = () =>
    new ServiceError(413, 'too_large', `A body has at most ${Math.round(most / 1024 / 1024)} MB here.`);
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLarge();
  const parts: Uint8Array[] = [];
  let length = 0;
  for await (const part of (request.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
    length += part.length;
    if (length > most) throw tooLarge();
    parts.push(part);
  }
  return Buffer.concat(parts);
}

export const textOf = async (request: Request, most = mostBytes): Promise<string> =>
  new TextDecoder().decode(await bytesOf(request, most));

/** Lets a value of a body pass when its texts can be kept. */
function kept(this: unknown, key: string, value: unknown): unknown {
  if (unkept.test(key) || (typeof value === 'string' && unkept.test(value))) throw unkeptAt(key.slice(0, 40));
  return value;
}

function bodyOf<T>(schema: Joi.Schema<T>, text: string): T {
  let value: unknown;
  try {
    value = text === '' ? {} : JSON.parse(text, kept);
  } catch (error) {
    if (error instanceof ServiceError) throw error;
    throw new ServiceError(400, 'bad_json', 'The body is not JSON.');
  }
  return check(schema, value);
}

/** A call that reads, and says what in a body: conditions are too long for an address. */
export const asks =
  <T>(schema: Joi.Schema<T>, handler: (call: Call<T>) => Promise<unknown>): APIRoute =>
  async (context) => {
    try {
      const accountId = await accountIn(context);
      const body = bodyOf(schema, await textOf(context.request));
      const result = await handler({ accountId, body, context, query: queryOf(context) });
      return result instanceof Response ? result : json(result);
    } catch (error) {
      return failure(error);
    }
  };

/** As `asks`, kept as with `readsKept`. */
export const asksKept =
  <T>(schema: Joi.Schema<T>, handler: (call: Call<T>) => Promise<unknown>): APIRoute =>
  async (context) => {
    try {
      const accountId = await accountIn(context);
      const text = await textOf(context.request);
      const body = bodyOf(schema, text);
      const query = queryOf(context);
      return await keptFor(context, accountId, text, () => handler({ accountId, body, context, query }));
    } catch (error) {
      return failure(error);
    }
  };

/**
 * A call that changes something: its body is checked; the change and its answer, kept under the call's Idempotency-Key,
 * stand together or not at all.
 */
export const writes =
  <T>(schema: Joi.Schema<T>, handler: (call: Call<T>) => Promise<unknown>): APIRoute =>
  async (context) => {
    let accountId = 0;
    try {
      accountId = await accountIn(context);
      const text = await textOf(context.request);
      const body = bodyOf(schema, text);
      const query = queryOf(context);
      const run = async () => (await handler({ accountId, body, context, query })) ?? { done: true };
      const key = context.request.headers.get('idempotency-key');
      if (key === null) return json(await together(run));
      if (key.length < 8 || key.length > 200) {
        return problem(400, 'bad_key', 'An Idempotency-Key has 8 to 200 characters.');
      }
      return json(await once(accountId, key, `${context.request.method} ${context.url.pathname}`, text, run));
    } catch (error) {
      return failure(error);
    } finally {
      noteWrite(accountId);
    }
  };
