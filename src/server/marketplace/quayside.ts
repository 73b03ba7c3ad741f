import { createWriteStream } from 'node:fs';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { setTimeout as sleep } from 'node:timers/promises';
import type { FieldEntity } from '../../core/changes/fields.ts';
import { ServiceError } from '../errors.ts';
import type {
  CatalogueAsked,
  LineAnswer,
  Marketplace,
  MarketplaceAccount,
  MarketplaceCategory,
  MarketplaceItem,
  MarketplaceLimits,
  MarketplaceSuggestions,
  ReportKind,
  Row,
} from './connector.ts';

/** A connection that broke, a limit of calls, an error of theirs: worth another try. */
const tries = 6;

/** How long one call may take, a file, and a day that is let pass. */
const patience = { sign: 15_000, call: 60_000, file: 15 * 60_000, clock: 5 * 60_000 };

/** How Quayside calls the fields that it lets be changed. */
const fieldNames: Readonly<Record<string, string>> = {
  'target.bid': 'bid',
  'target.status': 'status',
  'ad_group.default_bid': 'default_bid',
  'ad_group.status': 'status',
  'ad_group.rule': 'rule',
  'campaign.name': 'name',
  'campaign.daily_budget': 'daily_budget',
  'campaign.lifetime_budget': 'lifetime_budget',
  'campaign.end_date': 'end_date',
  'campaign.strategy': 'strategy',
  'campaign.schedule': 'schedule',
  'campaign.status': 'status',
  'negative.status': 'status',
};

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
      signal: AbortSignal.timeout(patience.sign),
    });
    // Too many calls, or an error of theirs, says nothing of the secret: the call is tried again.
    if (response.status === 429) await sleep(Number(response.headers.get('retry-after') ?? 1) * 1000);
    if (response.status === 429 || response.status >= 500) throw new Error(`status ${response.status}`);
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

  /**
   * One call and what `read` makes of its answer, with sign-in, waiting and retrying. Retries are safe: reads, and writes
   * that carry a key.
   */
  private async call<T>(
    method: string,
    path: string,
    body: unknown,
    read: (response: Response) => Promise<T>,
    { retry = true, limit = patience.call, type = 'application/json' } = {},
  ): Promise<T> {
    let last = '';
    for (let attempt = 1; attempt <= (retry ? tries : 1); attempt++) {
      try {
        this.token ??= await this.signIn();
        const response = await fetch(`${this.url}${path}`, {
          method,
          headers: {
            authorization: `Bearer ${this.token}`,
            ...(body === undefined ? {} : { 'content-type': type }),
          },
          ...(body === undefined
            ? {}
            : {
                body: body instanceof Uint8Array ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body),
              }),
          signal: AbortSignal.timeout(limit),
        });
        if (response.ok) return await read(response);
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

  private json<T>(method: string, path: string, body?: unknown): Promise<T> {
    return this.call(method, path, body, (response) => response.json() as Promise<T>);
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

  async reachable(): Promise<void> {
    const response = await fetch(`${this.url}/health`, { signal: AbortSignal.timeout(2500) });
    if (!response.ok) throw new Error(`status ${response.status}`);
  }

  account = () => this.json<MarketplaceAccount>('GET', '/account');
  limits = () => this.json<MarketplaceLimits>('GET', '/limits');
  wallet = async () => (await this.json<{ balance: number | null }>('GET', '/wallet')).balance;
  products = async () => (await this.all('/products')).rows;
  structure = () => this.all('/structure');

  suggestions = (sku: string, most: { keywords: number; items: number }) =>
    this.json<MarketplaceSuggestions>('POST', '/suggestions', { sku, ...most });

  async catalogue({ item_codes: codes, ...asked }: CatalogueAsked, most: number): Promise<MarketplaceItem[]> {
    const query = new URLSearchParams({ ...asked, ...(codes ? { item_code: codes.join(',') } : {}) });
    const found: MarketplaceItem[] = [];
    for (let cursor: string | null = '0'; cursor !== null && found.length < most;) {
      const page: { items: MarketplaceItem[]; next_cursor: string | null } = await this.json(
        'GET',
        `/catalogue?${query.toString()}&limit=1000&cursor=${cursor}`,
      );
      found.push(...page.items);
      cursor = page.next_cursor;
    }
    return found.slice(0, most);
  }

  categories = async () => (await this.json<{ items: MarketplaceCategory[] }>('GET', '/categories')).items;

  picture = async (bytes: Uint8Array, type: string): Promise<string> => {
    const read = (response: Response) => response.json() as Promise<{ id: string }>;
    return (await this.call('POST', '/pictures', bytes, read, { type })).id;
  };

  async report(kind: ReportKind, from: string, to: string, path: string): Promise<void> {
    const { id } = await this.json<{ id: string }>('POST', '/reports', { kind, from, to });
    for (let attempt = 0; attempt < 200; attempt++) {
      const { state } = await this.json<{ state: string }>('GET', `/reports/${id}`);
      if (state === 'ready') {
        const keep = (response: Response) =>
          pipeline(Readable.fromWeb(response.body as never), createWriteStream(path));
        return this.call('GET', `/reports/${id}/file`, undefined, keep, { limit: patience.file });
      }
      await sleep(Math.min(2000, 100 + attempt * 100));
    }
    throw new ServiceError(
      504,
      'report_unfinished',
      `The report ${kind} was not finished in time. Fetch again.`,
    );
  }

  fieldName = (entity: FieldEntity, field: string): string | null =>
    entity === 'placement_modifier' ? field : (fieldNames[`${entity}.${field}`] ?? null);

  async send(idempotencyKey: string, lines: object[]): Promise<LineAnswer[]> {
    const body = { idempotency_key: idempotencyKey, lines };
    return (await this.json<{ lines: LineAnswer[] }>('POST', '/changes', body)).lines;
  }

  async advance(days: number): Promise<void> {
    const limits = { retry: false, limit: patience.clock };
    await this.call('POST', '/clock/advance', { days }, (response) => response.text(), limits);
  }
}
