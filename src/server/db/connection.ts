import { createConnection } from 'node:net';
import { AsyncLocalStorage } from 'node:async_hooks';
import postgres, { type Options, type Sql, type TransactionSql } from 'postgres';
import { config } from '../config.ts';

/** Dates stay text (YYYY-MM-DD): a day has no time zone. Money and ids come as numbers, safe below 9e15. */
export type Database = Sql<{ bigint: number }>;
export type Transaction = TransactionSql<{ bigint: number }>;

/** JSON that is a text stays as it is; anything else becomes one. */
const jsonAsText = (oid: number) => ({
  to: oid,
  from: [oid],
  parse: (text: string) => JSON.parse(text) as unknown,
  serialize: (value: unknown) => (typeof value === 'string' ? value : JSON.stringify(value)),
});

/**
 * A socket that sends what it is given at once. Postgres.js leaves the kernel's gathering of small packets on, and each
 * COPY then waits for two acknowledgements, nearly a tenth of a second: hundreds of them within one transaction looked like
 * a standstill.
 */
const prompt = ({ host, port, path }: { host: string[]; port: number[]; path: string | false }) =>
  path ? createConnection(path) : createConnection({ host: host[0]!, port: port[0]!, noDelay: true });

export function connect(
  url: string = config.databaseUrl,
  max = 8,
  {
    jsonIsText = false,
    ...more
  }: Pick<Options<Record<string, never>>, 'idle_timeout'> & {
    /** Values of JSON come as texts already. */
    jsonIsText?: boolean;
  } = {},
): Database {
  // Its types do not name the setting.
  const through = { socket: prompt } as object;
  return postgres(url, {
    max,
    ...more,
    ...through,
    onnotice: () => undefined,
    types: {
      bigint: {
        to: 20,
        from: [20],
        parse: (text: string) => Number(text),
        serialize: (n: number) => String(n),
      },
      date: { to: 1082, from: [1082], parse: (text: string) => text, serialize: (day: string) => day },
      ...(jsonIsText ? { json: jsonAsText(114), jsonb: jsonAsText(3802) } : {}),
    },
  }) as unknown as Database;
}

let shared: Database | null = null;

function pool(): Database {
  shared ??= connect();
  return shared;
}

interface Ambient {
  sql: Database;
  after: (() => Promise<void> | void)[];
}

const ambient = new AsyncLocalStorage<Ambient | null>();

/** The server's own pool; within `together`, its transaction. */
export const db = (): Database => ambient.getStore()?.sql ?? pool();

/**
 * Everything that `act` writes by `db()` in one transaction: all of it stands when this returns, or none of it when it
 * throws. Transactions begun within are savepoints of it.
 */
export async function together<T>(act: () => Promise<T>): Promise<T> {
  const after: Ambient['after'] = [];
  const result = (await pool().begin((begun) => {
    const sql = Object.assign(begun, {
      begin: (...args: unknown[]) => begun.savepoint(args.at(-1) as never),
    }) as unknown as Database;
    return ambient.run({ sql, after }, act);
  })) as T;
  for (const each of after) await each();
  return result;
}

/** What must not happen before the change stands: at once, or after the commit of `together`. */
export async function afterwards(act: () => Promise<void> | void): Promise<void> {
  const store = ambient.getStore();
  if (store) store.after.push(act);
  else await act();
}

/** Work that is shared by many callers belongs to no one's transaction. */
export const apart = <T>(act: () => T): T => ambient.run(null, act);

const lostCodes = new Set([
  'CONNECTION_CLOSED',
  'CONNECTION_ENDED',
  'CONNECTION_DESTROYED',
  'CONNECT_TIMEOUT',
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  // Postgres: all its connections are taken; shut down by an administrator, after a crash, not yet ready.
  '53300',
  '57P01',
  '57P02',
  '57P03',
]);

/** Errors that changed threads have lost their codes, and say the same in words. */
const lostWords =
  /CONNECTION_(CLOSED|ENDED|DESTROYED)|CONNECT_TIMEOUT|\bECONN(REFUSED|RESET)\b|terminating connection due to|the database system is (starting|shutting)|too many clients already|remaining connection slots/;

/** True when Postgres was out of reach: the same again, later, may well succeed. */
export const isUnreachable = (error: unknown): boolean =>
  error instanceof Error &&
  (lostCodes.has((error as { code?: string }).code ?? '') || lostWords.test(error.message));

/** True when a value did not fit its column: a number too large, a day of no calendar, a sign of no text. */
export const isOutOfRange = (error: unknown): boolean =>
  error instanceof Error && /^22/.test((error as { code?: string }).code ?? '');
