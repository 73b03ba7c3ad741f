import postgres from 'postgres';
import { MatchIndex } from '../../src/core/terms/match-index.ts';
import type { NegativeType } from '../../src/core/account/store.ts';
import { matches, type MatchType } from '../../src/core/terms/match.ts';
import { callApi, type Running } from '../lib/processes.ts';
import { memoryOf, type Measure } from './measure.ts';

const window = { from: '2026-09-18', to: '2026-11-16' };

/** A list of words with a heavy tail, from a seed: the same in every run. */
function wordMaker(seed: number): (most: number) => string {
  let state = seed;
  const next = () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
  const word = () => `w${Math.floor(Math.pow(next(), 2.5) * 30_000)}`;
  return (most) => Array.from({ length: 1 + Math.floor(next() * most) }, word).join(' ');
}

/** Coverage of a million terms against 100,000 targets and 50,000 negatives; the reference compares one by one. */
export function coverageOfMillion(): Measure[] {
  const text = wordMaker(7);
  const types: MatchType[] = ['exact', 'phrase', 'broad'];
  const targets = Array.from({ length: 100_000 }, (_, i) => [types[i % 3]!, text(4)] as const);
  const kinds: NegativeType[] = ['negative_exact', 'negative_phrase'];
  const negatives = Array.from({ length: 50_000 }, (_, i) => [kinds[i % 2]!, text(3)] as const);
  const terms = Array.from({ length: 1_000_000 }, () => text(6));
  const start = performance.now();
  const [keywords, blocks] = [new MatchIndex(), new MatchIndex()];
  targets.forEach(([type, expression], place) => keywords.add(type, expression, place));
  negatives.forEach(([type, expression], place) => blocks.add(type, expression, place));
  let found = 0;
  for (const term of terms) found += keywords.matching(term).length + blocks.matching(term).length;
  const indexed = (performance.now() - start) / 1000;
  // One by one for a few terms: what the whole would take without the index.
  const few = terms.slice(0, 20);
  const began = performance.now();
  let same = 0;
  for (const term of few) {
    for (const [type, expression] of targets) if (matches(type, expression, term)) same++;
    for (const [type, expression] of negatives) if (matches(type, expression, term)) same++;
  }
  const each = (performance.now() - began) / 1000 / few.length;
  const again = few.reduce(
    (sum, term) => sum + keywords.matching(term).length + blocks.matching(term).length,
    0,
  );
  if (again !== same) throw new Error(`The index finds ${again}, the matcher ${same}.`);
  return [
    {
      name: 'coverage-1M',
      value: indexed,
      unit: `s, 1,000,000 terms, ${found} matches`,
      reference: `the matcher one by one (${(each * 1e6).toFixed(0)} s, from ${few.length} terms)`,
      ratio: indexed / (each * 1e6),
      aim: 'none',
    },
  ];
}

/** Gives the big account's terms words as shoppers use them: a few everywhere, most rarely. */
export async function wordyTerms(databaseUrl: string): Promise<void> {
  const sql = postgres(databaseUrl, { max: 1 });
  const word = sql`' w' || floor(power(random() + 0 * term_id, 2.5) * 30000)::int`;
  await sql`drop index term_text`;
  await sql`update term set text = 'w' || term_id % 3000 || ${word} || ${word}
    || case when term_id % 2 = 0 then ${word} else '' end || case when term_id % 3 = 0 then ${word} else '' end`;
  await sql`analyze`;
  await sql.end();
}

/** Words of a million terms through the application, in its worker; the second call has them in memory. */
export async function wordsOfMillion(app: Running): Promise<Measure[]> {
  const body = { ...window, only: 'all', sort: 'spend', descending: true, most: 2000 };
  // The terms and their sums are read first, as a table of them would.
  const tableStart = performance.now();
  await callApi(app.url, 'POST', '/api/1/explore/table', {
    level: 'terms',
    window,
    columns: ['name', 'clicks', 'verdict'],
    sort: 'clicks',
    where: null,
    limit: 1,
  });
  const read = (performance.now() - tableStart) / 1000;
  const start = performance.now();
  const answer = await callApi<{ terms: number; count: number }>(app.url, 'POST', '/api/1/terms/words', body);
  const first = (performance.now() - start) / 1000;
  if (answer.terms < 900_000) throw new Error(`Only ${answer.terms} terms were summed.`);
  const memory = memoryOf(app.child.pid!);
  const again = performance.now();
  await callApi(app.url, 'POST', '/api/1/terms/words', { ...body, sort: 'worth' });
  const second = (performance.now() - again) / 1000;
  return [
    {
      name: 'words-1M',
      value: first,
      unit: `s, ${answer.terms} terms, ${answer.count} sequences`,
      reference: `reading the terms and judging them (${read.toFixed(1)} s)`,
      ratio: first / read,
      aim: 'under 10 s',
    },
    {
      name: 'words-again',
      value: second,
      unit: 's, sorted otherwise',
      reference: `the first time (${first.toFixed(1)} s)`,
      ratio: second / first,
      aim: 'none',
    },
    {
      name: 'words-memory',
      value: memory,
      unit: 'MiB',
      reference: '1.5 GiB',
      ratio: memory / 1536,
      aim: 'under 1.5 GiB',
    },
  ];
}
