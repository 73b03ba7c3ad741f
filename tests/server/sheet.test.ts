import { afterAll, beforeAll, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type {
  LineNumbers,
  LinePage,
  OpenSheet,
  SheetDetail,
  SheetEffect,
  SheetLine,
} from '../../src/answers/changes.ts';
import { totalEffect } from '../../src/core/changes/lines.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** A long sheet in figures and in pages: both say what its lines say, after whatever was done to them. */

let stack: Stack;
let sql: Database;
beforeAll(async () => {
  stack = await startStack(true);
  sql = connect(stack.databaseUrl, 2);
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const get = <T>(path: string) => callApi<T>(stack.url, 'GET', `/api/1/${path}`);
const post = <T>(path: string, body: object) => callApi<T>(stack.url, 'POST', `/api/1/${path}`, body);
const page = (query: string) => get<LinePage>(`sheet/lines?${query}`);
const linesOf = ({ entries }: LinePage): SheetLine[] =>
  entries.flatMap((entry) => ('line' in entry ? [entry.line] : []));

/** Changes the bids of all targets with clicks by a share. */
const changeAll = (value: number) =>
  post<{ groups: string[]; lines: number }>('explore/edit', {
    window: { from: '2026-10-18', to: '2026-11-16' },
    level: 'targets',
    columns: [],
    where: { all: [{ column: 'clicks', is: 'at_least', value: 1 }] },
    edit: { field: 'bid', how: 'percent', value },
  });

/** What the sheet says of itself, against its lines one by one and against Postgres. */
async function expectTrue(): Promise<OpenSheet> {
  const summary = await get<OpenSheet>('sheet');
  const { lines } = await openSheetOf(stack.url);
  expect(summary.lines).toBe(lines.length);
  expect(new Set(lines.map(({ line_id }) => line_id)).size).toBe(lines.length);
  expect(summary.conflicts).toBe(lines.filter(({ conflict }) => conflict).length);
  expect(summary.overtaken).toBe(lines.filter(({ overtaken }) => overtaken).length);
  const effect = totalEffect(lines);
  for (const name of ['clicks', 'spend', 'orders', 'sales', 'spendSpread', 'salesSpread'] as const)
    expect(summary.effect[name], name).toBeCloseTo(effect[name], 4);
  const [kept] = await sql<{ lines: number; conflicts: number; overtaken: number }[]>`
    with open as (
      select l.*, t.bid from line l left join target t on t.target_id::text = l.object_id and l.entity = 'target'
      where l.account_id = 1 and l.state = 'open')
    select count(*)::int as lines,
      (select count(*)::int from open a where exists (
        select 1 from open b where b.conflict_key = a.conflict_key and b.line_id <> a.line_id)) as conflicts,
      count(*) filter (where bid::text <> old_value)::int as overtaken from open`;
  expect(kept).toEqual({ lines: summary.lines, conflicts: summary.conflicts, overtaken: summary.overtaken });
  return summary;
}

test('the figures stay true through adding, editing, removing, undoing, and changes from elsewhere', async () => {
  expect((await expectTrue()).lines).toBe(0);
  const first = await changeAll(-0.12);
  expect(first.lines).toBeGreaterThan(300);
  const begun = await expectTrue();
  expect(begun).toMatchObject({ lines: first.lines, conflicts: 0, overtaken: 0 });

  const second = await changeAll(0.2);
  expect((await expectTrue()).conflicts).toBeGreaterThan(500);
  await post('sheet/undo', { groups: second.groups });
  expect((await expectTrue()).conflicts).toBe(0);

  const [line] = linesOf(await page('from=300&count=20'));
  await post(`sheet/lines/${line!.line_id}`, { newValue: '770000' });
  expect((await expectTrue()).version).toBeGreaterThan(begun.version);
  await post('sheet/lines', { lineIds: [line!.line_id] });
  expect((await expectTrue()).lines).toBe(first.lines - 1);
  await post('sheet/lines', { lineIds: [line!.line_id], back: true });
  await expectTrue();

  // Somebody else's bids: the sheet did not change, and its lines are behind.
  await sql`update target set bid = bid + 10000 where target_id in (
    select object_id::bigint from line where state = 'open' order by line_id limit 7)`;
  await sql`update account set data_version = data_version + 1 where account_id = 1`;
  expect((await expectTrue()).overtaken).toBe(7);
  expect(linesOf(await page('show=overtaken'))).toHaveLength(7);
  await sql`update target set bid = bid - 10000 where target_id in (
    select object_id::bigint from line where state = 'open' order by line_id limit 7)`;
  await sql`update account set data_version = data_version + 1 where account_id = 1`;
  expect((await expectTrue()).overtaken).toBe(0);
});

test('pages of a view hold all its entries once; a group is named by its numbers', async () => {
  const { total, lines, version } = await page('count=1');
  const entries = (
    await Promise.all(
      Array.from({ length: Math.ceil(total / 100) }, (_, i) => page(`from=${i * 100}&count=100`)),
    )
  ).flatMap((one) => (expect(one.version).toBe(version), one.entries));
  expect(entries).toHaveLength(total);
  expect(entries.filter((entry) => 'line' in entry)).toHaveLength(lines);
  const heads = entries.flatMap((entry) => ('head' in entry ? [entry.head] : []));
  expect(heads.reduce((sum, head) => sum + head.lines, 0)).toBe(lines);

  const head = heads[1]!;
  const { lineIds } = await get<LineNumbers>(`sheet/numbers?group=${encodeURIComponent(head.key)}`);
  const at = entries.findIndex((entry) => 'head' in entry && entry.head.key === head.key);
  expect(lineIds).toEqual(
    entries.slice(at + 1, at + 1 + head.lines).map((entry) => ('line' in entry ? entry.line.line_id : null)),
  );

  const byspend = linesOf(await page('order=-spend&count=1000')).map(
    ({ effect }) => effect?.spend ?? -Infinity,
  );
  expect(byspend).toEqual([...byspend].sort((a, b) => b - a));
  const found = await page('find=tamper&count=1000');
  expect(found.lines).toBeGreaterThan(0);
  for (const { expression, campaign, ad_group } of linesOf(found))
    expect(`${expression} ${campaign} ${ad_group}`.toLowerCase()).toContain('tamper');
});

test('what no sheet has: an unknown view, a page beyond the end, a sheet that is none', async () => {
  const status = async (path: string) => (await fetch(`${stack.url}/api/1/${path}`)).status;
  expect(await status('sheet/lines?show=everything')).toBe(422);
  expect(await status('sheet/lines?count=0')).toBe(422);
  expect(await status('sheet/lines?from=-1')).toBe(422);
  expect((await page('from=99999')).entries).toEqual([]);
  expect(await get<LineNumbers>('sheet/numbers?group=c%3A999999')).toMatchObject({ lineIds: [] });
  expect(await status('ledger/99999/lines')).toBe(404);
  expect(await status('ledger/99999/effect')).toBe(404);
});

test('a sent sheet: counted, page by page with before and after, whose sums are those of the whole', async () => {
  const { jobId, sheetId } = await post<{ jobId: string; sheetId: number }>('sheet/send', {});
  await waitForJob(stack.url, jobId);
  const advance = await post<{ jobId: string }>('advance', { days: 14 });
  await waitForJob(stack.url, advance.jobId);
  const detail = await get<SheetDetail>(`ledger/${sheetId}`);
  const { lines } = await sentSheetOf<{
    lines: (SheetLine & { before: { spend: number }; after: { spend: number } })[];
  }>(stack.url, sheetId);
  expect(detail.counts).toEqual({ lines: lines.length, applied: lines.length, refused: 0 });
  expect(detail.days).toBeGreaterThan(0);
  const { effect } = await get<{ effect: SheetEffect }>(`ledger/${sheetId}/effect`);
  const sum = (side: 'before' | 'after') => lines.reduce((all, line) => all + line[side].spend, 0);
  expect(sum('before')).toBeGreaterThan(0);
  expect([effect.before.spend, effect.after.spend]).toEqual([sum('before'), sum('after')]);
});
