import postgres, { type Options, type Sql, type TransactionSql } from 'postgres';
import { config } from '../config.ts';

/** Dates stay text (YYYY-MM-DD): a day has no time zone. Money and ids come as numbers, safe below 9e15. */
export type Database = Sql<{ bigint: number }>;
export type Transaction = TransactionSql<{ bigint: number }>;

export function connect(
  url: string = config.databaseUrl,
  max = 8,
  more: Pick<Options<Record<string, never>>, 'idle_timeout'> = {},
): Database {
  return postgres(url, {
    max,
    ...more,
    onnotice: () => undefined,
    types: {
      bigint: {
        to: 20,
        from: [20],
        parse: (text: string) => Number(text),
        serialize: (n: number) => String(n),
      },
      date: { to: 1082, from: [1082], parse: (text: string) => text, serialize: (day: string) => day },
    },
  }) as unknown as Database;
}

let shared: Database | null = null;

/** The server's own pool. */
export function db(): Database {
  shared ??= connect();
  return shared;
}
