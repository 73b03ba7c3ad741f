import Postgrator from 'postgrator';
import { config } from '../config.ts';
import { connect } from './connection.ts';

/** Applies the migrations that are missing, under a lock: two servers that start at once do not meet. */
export async function migrate(url: string = config.databaseUrl, folder = config.migrations): Promise<void> {
  const sql = connect(url, 1);
  try {
    await sql`select pg_advisory_lock(20260824)`;
    const postgrator = new Postgrator({
      migrationPattern: `${folder}/*.sql`,
      driver: 'pg',
      schemaTable: 'migration',
      execQuery: async (query: string) => ({ rows: [...(await sql.unsafe(query))] }),
      execSqlScript: async (script: string) => {
        await sql.unsafe(`begin; ${script}; commit;`);
      },
    });
    await postgrator.migrate();
  } finally {
    await sql.end();
  }
}
