import { createWriteStream } from 'node:fs';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { setTimeout as sleep } from 'node:timers/promises';
import { ServiceError } from '../errors.ts';
import type {
  LineAnswer,
  Marketplace,
  MarketplaceAccount,
  MarketplaceLimits,
  ReportKind,
  Row,
} from './connector.ts';

/** A connection that broke, a limit of calls, an error of theirs: worth another try. */
const tries = 6;

/** The connector to Quayside over HTTP. */
export class Quayside implements Marketplace {
  readonly name = 'Quayside';
  private token: string | null = null;

  constructor(
    private readonly url: string,
    private readonly secret: string,
  ) {}

  private async signIn(): Promise<string> {
    const response = await fetch(`${this.url}/token`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ secret: this.secret }),
    });
    if (!response.ok) {
      throw new ServiceError(
        502,
        'marketplace_sign_in',
        'Quayside does not accept our secret. Check QUAYSIDE_SECRET.',
      );
    }
    const { token } = (await response.json()) as { token: string };
    return token;
  }

  /** One call, with sign-in, waiting and retrying. Retries are safe: reads, and writes that carry a key. */
  private async call(method: string, path: string, body?: unknown, retry = true): Promise<Response> {
    let last = '';
    for (let attempt = 1; attempt <= (retry ? tries : 1); attempt++) {
      try {
        this.token ??= await this.signIn();
        const response = await fetch(`${this.url}${path}`, {
          method,
          headers: {
            authorization: `Bearer ${this.token}`,
            ...(body === undefined ? {} : { 'content-type': 'application/json' }),
          },
          ...(body === undefined ? {} : { body: JSON.stringify(body) }),
        });
        if (response.ok) return response;
        const answer = (await response.json().catch(() => ({}))) as { message?: string; code?: string };
        last = answer.message ?? `status ${response.status}`;
        if (response.status === 401) {
          this.token = null;
          continue;
        }
        if (response.status === 429) {
          await sleep(Number(response.headers.get('retry-after') ?? 1) * 1000);
          continue;
        }
        if (response.status < 500) {
          throw new ServiceError(502, answer.code ?? 'marketplace_refused', `Quayside says: ${last}`);
        }
      } catch (error) {
        if (error instanceof ServiceError) throw error;
        last = error instanceof Error ? error.message : String(error);
      }
      await sleep(150 * 2 ** attempt);
    }
    throw new ServiceError(
      502,
      'marketplace_unreachable',
      `Quayside could not be reached (${last}). Try again later.`,
    );
  }

  private async json<T>(method: string, path: string, body?: unknown): Promise<T> {
    return (await (await this.call(method, path, body)).json()) as T;
  }

  private async all(path: string): Promise<{ version: number; rows: Row[] }> {
    const rows: Row[] = [];
    let version = 0;
    for (let cursor: string | null = '0'; cursor !== null;) {
      const page: { items: Row[]; next_cursor: string | null; version?: number } = await this.json(
        'GET',
        `${path}?limit=1000&cursor=${cursor}`,
      );
      rows.push(...page.items);
      version = page.version ?? 0;
      cursor = page.next_cursor;
    }
    return { version, rows };
  }

  account = () => this.json<MarketplaceAccount>('GET', '/account');
  limits = () => this.json<MarketplaceLimits>('GET', '/limits');
  products = async () => (await this.all('/products')).rows;
  structure = () => this.all('/structure');

  async report(kind: ReportKind, from: string, to: string, path: string): Promise<void> {
    const { id } = await this.json<{ id: string }>('POST', '/reports', { kind, from, to });
    for (let attempt = 0; attempt < 200; attempt++) {
      const { state } = await this.json<{ state: string }>('GET', `/reports/${id}`);
      if (state === 'ready') {
        const response = await this.call('GET', `/reports/${id}/file`);
        await pipeline(Readable.fromWeb(response.body as never), createWriteStream(path));
        return;
      }
      await sleep(Math.min(2000, 100 + attempt * 100));
    }
    throw new ServiceError(
      504,
      'report_unfinished',
      `The report ${kind} was not finished in time. Fetch again.`,
    );
  }

  async send(idempotencyKey: string, lines: object[]): Promise<LineAnswer[]> {
    const body = { idempotency_key: idempotencyKey, lines };
    return (await this.json<{ lines: LineAnswer[] }>('POST', '/changes', body)).lines;
  }

  async advance(days: number): Promise<void> {
    await this.call('POST', '/clock/advance', { days }, false);
  }
}
