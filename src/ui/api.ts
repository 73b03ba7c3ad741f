import { at } from './address.ts';

/** Calls of our own API, of the account that is open, with problem details turned into errors that people can read. */

export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly field: string | undefined,
  ) {
    super(message);
  }
}

async function answer<T>(response: Response): Promise<T> {
  const body = (await response.json().catch(() => null)) as
    (T & { detail?: string; code?: string; field?: string }) | null;
  if (response.ok && body !== null) return body;
  // Cut off on its way, as when its page is left: what was asked for may have been done all the same.
  if (response.ok)
    throw new ApiError(
      0,
      'cut_off',
      'The answer was cut off. Load the page again to see what was done.',
      undefined,
    );
  const detail = body?.detail ?? 'The server did not answer as it should. Try again.';
  throw new ApiError(response.status, body?.code ?? 'unknown', detail, body?.field);
}

async function reach(path: string, init?: RequestInit): Promise<Response> {
  try {
    return await fetch(at(path), init);
  } catch {
    throw new ApiError(0, 'unreachable', 'The server cannot be reached. Is it still running?', undefined);
  }
}

export const get = async <T>(path: string): Promise<T> => answer<T>(await reach(path));

/** A call that reads, and says what in a body. */
export const ask = async <T>(path: string, body: unknown): Promise<T> =>
  answer<T>(
    await reach(path, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    }),
  );

/** Asks for a file and saves it under a name. */
export async function download(path: string, body: unknown, name: string): Promise<void> {
  const response = await reach(path, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!response.ok) return answer<void>(response);
  const url = URL.createObjectURL(await response.blob());
  const link = Object.assign(document.createElement('a'), { href: url, download: name });
  link.click();
  URL.revokeObjectURL(url);
}

/** A browser lets calls outlive their page while their bodies are no longer than this together. */
const outlives = 50_000;

/**
 * A call that changes something; a repeated click under one key does it once. It goes on when its page is left or loaded
 * anew: what was pressed last is not lost.
 */
export const send = async <T>(
  method: 'POST' | 'PUT' | 'DELETE',
  path: string,
  body: unknown = {},
  key: string = crypto.randomUUID(),
): Promise<T> => {
  const text = JSON.stringify(body);
  return answer<T>(
    await reach(path, {
      method,
      headers: { 'content-type': 'application/json', 'idempotency-key': key },
      body: text,
      keepalive: text.length < outlives,
    }),
  );
};

export const upload = async <T>(path: string, file: File): Promise<T> =>
  answer<T>(await reach(path, { method: 'POST', body: file }));
