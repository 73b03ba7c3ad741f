import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { OpenSheet, SentLine, SheetDetail, SheetEffect } from '../../src/answers/changes.ts';
import type { QueueAnswer, WiderAnswer } from '../../src/answers/round.ts';
import type { WordsAnswer } from '../../src/answers/terms.ts';
import { claimingOfLine } from '../../src/core/changes/lines.ts';
import { sharesOf } from '../../src/core/effect/claims.ts';
import type { QueueRow } from '../../src/core/round/queue.ts';
import { wordsOf } from '../../src/core/text/normalise.ts';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { connect } from '../../src/server/db/connection.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** Every kind of finding in one round: words and conflicts beside terms and targets, no money counted twice. */

let stack: Stack;
const window = { from: '2026-10-18', to: '2026-11-16' };
beforeAll(async () => {
  stack = await startStack(true);
});
afterAll(() => stack.stop());

const get = <T>(path: string) => callApi<T>(stack.url, 'GET', `/api/1/${path}`);
const post = <T>(path: string, body: object) => callApi<T>(stack.url, 'POST', `/api/1/${path}`, body);
const span = `from=${window.from}&to=${window.to}`;
const queue = () => get<QueueAnswer>(`round/queue?${span}`);
const wider = () => get<WiderAnswer>(`round/wider?${span}`);
const accept = (keys: string[], adjustments = {}) =>
  post<{ groups: string[]; lines: number }>('round/accept', { ...window, keys, adjustments });
const undo = (groups: string[]) => post('sheet/undo', { groups });
const openSheet = () => get<OpenSheet>('sheet');

const holds = (text: string, words: string) => ` ${wordsOf(text).join(' ')} `.includes(` ${words} `);

/** Words that are worth most, with the negatives of terms that hold them. */
async function wordsAndTerms(): Promise<{ words: QueueRow; terms: QueueRow[] }> {
  const [{ findings }, others] = await Promise.all([queue(), wider()]);
  const words = others.findings
    .filter((row) => row.queue === 'words')
    .sort((a, b) => b.worth - a.worth)
    .find((row) => findings.some((one) => isInside(one, row)))!;
  return { words, terms: findings.filter((one) => isInside(one, words)) };
}

const isInside = (one: QueueRow, words: QueueRow) =>
  one.proposal.kind === 'negative' && one.sku === words.sku && holds(one.subject, words.subject);

describe('words and conflicts', () => {
  test('are findings like all others: worth by one measure, accepted, put off and taken back under their keys', async () => {
    const { findings } = await wider();
    const kinds = new Set(findings.map((row) => row.queue));
    expect(kinds).toEqual(new Set(['placements', 'budgets', 'hours', 'words', 'conflicts', 'structure']));
    for (const { worth, claims, queue: kind } of findings) {
      expect(worth).toBeGreaterThanOrEqual(0);
      if (kind === 'words') expect(claims.length).toBeGreaterThan(0);
    }
    const word = findings.find((row) => row.queue === 'words')!;
    const conflict = findings.find((row) => row.proposal.kind === 'repair' && row.proposal.lines > 0)!;
    const made = await accept([word.key, conflict.key]);
    expect(made.groups).toHaveLength(2);
    const { lines } = await openSheetOf(stack.url);
    expect(new Set(lines.map((line) => line.finding_key))).toEqual(new Set([word.key, conflict.key]));
    const phrases = lines.filter((line) => line.finding_key === word.key);
    expect(new Set(phrases.map((line) => line.expression))).toEqual(new Set([word.subject]));
    const left = await wider();
    expect(left.findings.map((row) => row.key)).not.toContain(word.key);
    expect(left.onSheet).toBe(2);
    await undo(made.groups);
    expect((await wider()).findings.map((row) => row.key)).toContain(word.key);
    await post('round/decide', { keys: [word.key], decision: 'later' });
    expect((await wider()).later).toBe(1);
    await post('round/decide', { keys: [word.key], decision: null });
    expect((await wider()).later).toBe(0);
  });

  test('words marked relevant are no finding any more', async () => {
    const { words } = await wordsAndTerms();
    const mark = (relevant: boolean) =>
      callApi(stack.url, 'PUT', '/api/1/terms/words', { words: [words.subject], relevant });
    await mark(true);
    const names = (await wider()).findings.filter((row) => row.queue === 'words').map((row) => row.subject);
    expect(names).not.toContain(words.subject);
    await mark(false);
    expect((await wider()).findings.map((row) => row.key)).toContain(words.key);
  });
});

describe('what overlaps', () => {
  test('a phrase on the sheet settles the terms that hold it where it stands', async () => {
    const { words, terms } = await wordsAndTerms();
    expect((await queue()).covered).toEqual({});
    const { groups } = await accept([words.key]);
    const places = new Set((await openSheetOf(stack.url)).lines.map((line) => line.ad_group_id));
    const { covered } = await queue();
    const settled = terms.filter((row) => places.has(row.adGroupId));
    expect(settled.length).toBeGreaterThan(0);
    for (const row of settled) expect(covered[row.key]).toBe(`“${words.subject}”`);
    await undo(groups);
    expect((await queue()).covered).toEqual({});
  });

  test('the sheet counts a term and the phrase that holds it once, in whatever order they came', async () => {
    const { words, terms } = await wordsAndTerms();
    const groups = [...(await accept([terms[0]!.key])).groups, ...(await accept([words.key])).groups];
    const sheet = await openSheet();
    const { lines } = await openSheetOf(stack.url);
    const inOrder = [...lines].sort((a, b) => a.line_id - b.line_id);
    const plain = inOrder.reduce((sum, { effect }) => sum + (effect?.spend ?? 0), 0);
    const shares = sharesOf(
      inOrder.map((line) =>
        claimingOfLine({
          ...line,
          objectId: null,
          newValue: line.new_value,
          matchType: line.match_type,
        }),
      ),
    );
    const once = inOrder.reduce((sum, { effect }, i) => sum + shares[i]! * (effect?.spend ?? 0), 0);
    expect(sheet.effect.spend).toBeCloseTo(once, 0);
    // Both save money, and together less than each told for itself.
    expect(sheet.effect.spend).toBeGreaterThan(plain);
    const alone = (await accept([words.key]).catch(() => null))?.lines ?? 0;
    expect(alone).toBe(0);
    await undo(groups);
  });
});

describe('a goal', () => {
  const goal = (targetAcos: number) =>
    callApi(stack.url, 'PUT', '/api/1/goals', {
      scope: 'account',
      key: '',
      targetAcos,
      // Above what any product earns: it is meant.
      confirmed: true,
    });

  test('that the lines together would break is told, and no longer once they are gone', async () => {
    expect((await openSheet()).overGoal).toEqual([]);
    const { groups } = await post<{ groups: string[] }>('explore/edit', {
      level: 'targets',
      columns: [],
      where: { column: 'bid', is: 'above', value: 0 },
      window,
      edit: { field: 'bid', how: 'percent', value: 1 },
      keepGuards: false,
      keys: null,
      values: null,
    });
    const { overGoal, week, effect } = await openSheet();
    expect(overGoal.length).toBeGreaterThan(0);
    for (const { after, before, targetAcos } of overGoal) {
      expect(after).toBeGreaterThan(targetAcos);
      expect(after).toBeGreaterThan(before);
    }
    expect(effect.spend).toBeGreaterThan(0);
    // With a goal that all of it meets nothing is said of the account.
    const met = (week!.spend + effect.spend) / (week!.sales + effect.sales) + 0.5;
    const { goals } = await get<{ goals: { scope: string; targetAcos: number }[] }>('goals');
    const before = goals.find(({ scope }) => scope === 'account')!.targetAcos;
    await goal(Math.min(0.99, met));
    expect((await openSheet()).overGoal.filter(({ scope }) => scope === 'account')).toEqual([]);
    await goal(before);
    await undo(groups);
    expect((await openSheet()).overGoal).toEqual([]);
  });
});

test('the ledger says whether it worked: too early at first, then by line and sheet, each click once', async () => {
  const { words, terms } = await wordsAndTerms();
  const bids = (await queue()).findings.filter((row) => row.proposal.kind === 'bid').slice(0, 10);
  await accept([words.key, terms[0]!.key, ...bids.map((row) => row.key)]);
  const { jobId, sheetId } = await post<{ jobId: string; sheetId: number }>('sheet/send', {
    clicksMeant: true,
  });
  await waitForJob(stack.url, jobId);
  const effectNow = async () =>
    (await get<{ effect: SheetEffect | null }>(`ledger/${sheetId}/effect`)).effect;
  expect(await effectNow()).toBeNull();
  for (const days of [9, 14]) {
    const advance = await post<{ jobId: string }>('advance', { days });
    await waitForJob(stack.url, advance.jobId);
    const detail = await get<SheetDetail>(`ledger/${sheetId}`);
    const { lines } = await sentSheetOf<{ lines: SentLine[] }>(stack.url, sheetId);
    const effect = (await effectNow())!;
    const weeks = Math.floor(detail.days / 7);
    if (weeks < 1) {
      expect(effect.outcome.verdict).toBe('too early');
      expect(new Set(lines.map((line) => line.outcome?.verdict))).toEqual(new Set(['too early']));
      continue;
    }
    expect(effect.outcome.weeks).toBe(weeks);
    // The market moved meanwhile, and what nobody touched tells how.
    expect(effect.outcome.trend).not.toBe(1);
    expect(effect.outcome.low).toBeLessThan(effect.outcome.change);
    expect(effect.outcome.high).toBeGreaterThan(effect.outcome.change);
    for (const { outcome } of lines) expect(outcome!.change).toBeCloseTo(outcome!.after - outcome!.before, 3);
    // Blocked words spend nothing afterwards: what they wasted is gained.
    const phrase = lines.filter((line) => line.match_type === 'negative_phrase');
    expect(phrase.every((line) => line.after!.clicks === 0)).toBe(true);
    expect(phrase.some((line) => line.outcome!.verdict === 'better')).toBe(true);
    // What is blocked by now is proposed no more.
    const again = (await get<WiderAnswer>('round/wider')).findings.find((row) => row.key === words.key);
    expect(again?.worth ?? 0).toBeLessThan(words.worth / 4);
    const list = await post<WordsAnswer>('terms/words', {
      ...window,
      sku: words.sku,
      text: words.subject,
      only: 'all',
      sort: 'spend',
      descending: true,
    });
    expect(list.blocked).toBeGreaterThan(0);
    const row = list.rows.find((one) => one.words === words.subject);
    expect(row?.worth ?? 0).toBeLessThan(words.worth / 4);
    // The term is part of the phrase: the sheet has less than the sum of its lines.
    const sum = lines.reduce((all, line) => all + line.before!.spend, 0);
    expect(effect.before.spend).toBeLessThan(sum);
    expect(effect.before.spend).toBeGreaterThan(0);
    expect(effect).toMatchObject({ overtaken: 0, days: weeks * 7 });
  }
  // What was changed again after three days has no whole week: the sheet is judged without it.
  const { lines } = await sentSheetOf<{ lines: SentLine[] }>(stack.url, sheetId);
  const bid = lines.find((line) => line.entity === 'target' && line.field === 'bid')!;
  const whole = (await effectNow())!;
  const sql = connect(stack.databaseUrl, 1);
  try {
    await sql`
      insert into target_bid (account_id, target_id, day, bid)
      select account_id, object_id::bigint, sent_on + 3, 990000 from line join sheet using (account_id, sheet_id)
      where account_id = 1 and line_id = ${bid.line_id}
      on conflict (account_id, target_id, day) do update set bid = excluded.bid`;
    await sql`update account set data_version = data_version + 1 where account_id = 1`;
  } finally {
    await sql.end();
  }
  const left = (await effectNow())!;
  expect(left.overtaken).toBe(1);
  expect(left.outcome.weeks).toBe(whole.outcome.weeks);
  expect(left.before.spend).toBeLessThan(whole.before.spend);
}, 240_000);
