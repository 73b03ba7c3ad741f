import type { RoutineItem } from '../../answers/routines.ts';
import { db } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { tableFormats, valuesFile } from '../exports/table.ts';
import { findItems, type ItemsWanted } from './runs.queries.ts';

/** The log of what routines found and did, as pages and as a file. */

const dids: readonly RoutineItem['did'][] = ['taken', 'proposed', 'beyond', 'left', 'lost'];
const mostOfPage = 500;

/** What a query asks for of the log. */
export function itemsWanted(query: URLSearchParams): ItemsWanted {
  const number = (name: string, usual: number): number => {
    const text = query.get(name);
    if (text === null) return usual;
    if (/^\d{1,9}$/.test(text)) return Number(text);
    throw new ServiceError(422, 'bad_request', `“${text.slice(0, 40)}” is no whole number.`, { field: name });
  };
  const did = query.get('did');
  if (did !== null && !(dids as readonly string[]).includes(did))
    throw new ServiceError(422, 'bad_request', `There is no “${did.slice(0, 40)}” in the log.`, {
      field: 'did',
    });
  const runId = number('run', 0);
  return {
    text: (query.get('text') ?? '').slice(0, 200),
    did: did as RoutineItem['did'] | null,
    runId: runId === 0 ? null : runId,
    offset: number('offset', 0),
    limit: Math.min(mostOfPage, number('limit', 200)),
  };
}

const columns = [
  { key: 'day', label: 'day', kind: 'text' },
  { key: 'run', label: 'run', kind: 'number' },
  { key: 'routine', label: 'routine', kind: 'text' },
  { key: 'kind', label: 'kind', kind: 'text' },
  { key: 'campaign', label: 'campaign', kind: 'text' },
  { key: 'subject', label: 'subject', kind: 'text' },
  { key: 'did', label: 'did', kind: 'text' },
  { key: 'why', label: 'why', kind: 'text' },
  { key: 'sentence', label: 'sentence', kind: 'text' },
  { key: 'lines', label: 'lines', kind: 'number' },
  { key: 'worth', label: 'worth a week', kind: 'money' },
  { key: 'spend', label: 'spend moved a week', kind: 'money' },
] as const;

/** The log as a file, read page by page. */
export function exportItems(accountId: number, wanted: ItemsWanted, asked: string): Response {
  const format = tableFormats.find((one) => one === asked);
  if (!format)
    throw new ServiceError(422, 'bad_request', `A log is written as ${tableFormats.join(', ')}.`, {
      field: 'format',
    });
  const rows = (async function* () {
    for (let offset = 0; ; offset += mostOfPage) {
      const { items } = await findItems(db(), accountId, { ...wanted, offset, limit: mostOfPage });
      for (const one of items)
        yield [
          one.day,
          one.runId,
          one.routine,
          one.kind,
          one.campaign,
          one.subject,
          one.did,
          one.why,
          one.sentence,
          one.lines,
          one.worth,
          one.spend,
        ];
      if (items.length < mostOfPage) return;
    }
  })();
  return valuesFile(format, 'routines', [...columns], rows);
}
