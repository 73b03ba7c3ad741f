import type postgres from 'postgres';

/** What must hold between our books and the marketplace's, whatever happened on the way. */

export interface BooksReport {
  /** Lines that left with a sheet and never arrived, or arrived and are not told so. */
  lost: string[];
  /** Lines that the marketplace applied more than once. */
  doubled: string[];
}

interface Told {
  line_id: string;
  times: number;
}

/** Compares every line that left with what the marketplace says it applied. */
export async function compareBooks(ours: postgres.Sql, theirs: postgres.Sql): Promise<BooksReport> {
  const applied = await theirs<Told[]>`
    select a.line_id, count(*)::int as times
    from change_batch b, jsonb_to_recordset(b.answer) as a (line_id text, state text)
    where a.state = 'applied' group by a.line_id`;
  const gone = await ours<{ line_id: string; state: string; sheet: string; sheet_id: number }[]>`
    select l.line_id::text, l.state, s.state as sheet, s.sheet_id::int
    from line l join sheet s using (account_id, sheet_id) where s.state <> 'open' and l.state <> 'removed'`;
  const arrived = new Map(applied.map(({ line_id, times }) => [line_id, times]));
  const lost = gone
    .filter(({ line_id, state, sheet }) =>
      sheet === 'sent'
        ? state !== (arrived.has(line_id) ? 'applied' : 'refused')
        : state === 'open' && arrived.has(line_id),
    )
    .map(
      ({ line_id, state, sheet, sheet_id }) =>
        `line ${line_id} of sheet ${sheet_id} (${sheet}) says ${state}, the marketplace ${arrived.has(line_id) ? '' : 'never '}applied it`,
    );
  const ourLines = new Set(gone.map(({ line_id }) => line_id));
  for (const { line_id } of applied)
    if (!ourLines.has(line_id)) lost.push(`line ${line_id} was applied and is on no sheet that left`);
  const doubled = applied
    .filter(({ times }) => times > 1)
    .map(({ line_id, times }) => `line ${line_id} was applied ${times} times`);
  return { lost, doubled };
}
