import type { Database, Transaction } from '../db/connection.ts';
import type { Fragment } from '../db/packed.ts';

/** What stands between words: blanks, signs and punctuation; never the marks that belong to a letter. */
const between = String.raw`[\s!-/:-@\[-\u0060{-\u00a0\u00a1\u00a7\u00ab\u00b7\u00bb\u00bf\u2010-\u205e\u20a0-\u20bf\u2190-\u27bf\u3000-\u3020]+`;

/** `normalise` of the core, in SQL: the words of a text with one space between them. */
export const wordsIn = (sql: Database | Transaction, text: string): Fragment =>
  sql.unsafe(
    `btrim(regexp_replace(translate(lower(normalize(${text}, NFKC)), '''’', ''), '${between}', ' ', 'g'))`,
  ) as unknown as Fragment;

/**
 * Every term that holds the words of a phrase in a row: rows (words, term_id), for the column `words` of a relation
 * named before it. Terms are read by their words once a phrase, not once a day.
 */
export const phraseTerms = (sql: Database | Transaction, accountId: number, phrases: string): Fragment => sql`
  select p.words, m.term_id from (select distinct words from ${sql(phrases)} where words <> '') p
  join term m on m.account_id = ${accountId}
    and strpos(translate(lower(m.text), '''’', ''), split_part(p.words, ' ', 1)) > 0
    and strpos(' ' || ${wordsIn(sql, 'm.text')} || ' ', ' ' || p.words || ' ') > 0`;
