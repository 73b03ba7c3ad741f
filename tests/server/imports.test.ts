import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { filesOf } from '../../src/server/account/files.ts';
import type { Database } from '../../src/server/db/connection.ts';
import { inspectFile } from '../../src/server/imports/inspect.ts';
import { startImporter, type Importer } from '../support/importing.ts';

let sql: Database;
let put: Importer['put'];
let load: Importer['load'];
beforeAll(async () => {
  ({ sql, put, load } = await startImporter());
});
afterAll(() => sql.end());
beforeEach(async () => {
  await sql`truncate target_day, term_day, term, target, negative, ad_group, campaign, report_day, day_sight, import,
    target_bid, placement_modifier, product_ad`;
});

const termSums = () =>
  sql<{ day: string; text: string; clicks: number; spend: number; orders: number; sales: number }[]>`
    select d.day, t.text, d.clicks, d.spend, d.orders, d.sales from term_day d
    join term t using (account_id, term_id) order by day, text`.then((rows) => [...rows]);

const header = 'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales';
const row = (day: string, term: string, clicks = 3) =>
  `${day},Lids,Lids,airlock lids,broad,${term},100,${clicks},1.50,1,18.90`;

describe('what files look like', () => {
  const expected = [
    { day: '2026-11-05', text: 'blüte lids', clicks: 3, spend: 1_500_000, orders: 1, sales: 18_900_000 },
  ];
  const plain = `${header}\n${row('2026-11-05', 'blüte lids')}\n`;
  const german = [
    'Datum;Kampagne;Anzeigengruppe;Keyword;Match;Suchbegriff;Impressionen;Klicks;Kosten;Bestellungen;Umsatz',
    '05.11.2026;Lids;Lids;airlock lids;broad;blüte lids;100;3;1,50 €;1;18,90 €',
    '25.11.2026;Lids;Lids;airlock lids;broad;blüte lids;1.100;3;1.001,50 €;1;18,90 €',
  ].join('\r\n');

  test.each<[string, string | Buffer]>([
    ['UTF-8', plain],
    ['UTF-8 with BOM', `\uFEFF${plain}`],
    ['UTF-16 little endian with BOM', Buffer.from(`\uFEFF${plain}`, 'utf16le')],
    ['UTF-16 big endian with BOM', Buffer.from(`\uFEFF${plain}`, 'utf16le').swap16()],
    ['UTF-16 without BOM', Buffer.from(plain, 'utf16le')],
    ['Windows-1252', Buffer.from(plain, 'latin1')],
    ['tabs', plain.replaceAll(',', '\t')],
    ['semicolons', plain.replaceAll(',', ';')],
    ['carriage returns', plain.replaceAll('\n', '\r\n')],
    ['title rows above the header', `Search terms of Tarn\nmade,2026-11-21\n\n${plain}`],
    [
      'headers in other words',
      plain.replace(
        header,
        'Day,Campaign Name,Ad Group Name,Keyword,Match Type,Search Term,Impr.,Clicks,Cost (EUR),Purchases,Revenue',
      ),
    ],
    ['money with signs', plain.replace('1.50,1,18.90', '€1.50,1,"$18.90"')],
    ['a total row at its end', `${plain}Total,,,,,,100,3,1.50,1,18.90\n`],
  ])('%s', async (_name, content) => {
    const result = await load(content);
    expect(await termSums()).toEqual(expected);
    expect(result.rowsRead).toBe(result.rowsLoaded + result.rowsRejected + result.rowsTotals);
  });

  test('day-first dates, decimal commas and synonyms of another language', async () => {
    const result = await load(german);
    expect(result.rowsLoaded).toBe(2);
    expect((await termSums())[1]).toMatchObject({ day: '2026-11-25', spend: 1_001_500_000 });
  });

  test('a line break within quotes stays in its cell', async () => {
    await load(`${header}\n${row('2026-11-05', '"wide\nmouth"')}\n`);
    expect((await termSums())[0]!.text).toBe('wide\nmouth');
  });

  test('dates that can be read two ways are asked', async () => {
    const path = put('ask.csv', `${header}\n${row('03/04/2026', 'a')}\n${row('05/06/2026', 'b')}\n`);
    expect((await inspectFile(path, 'ask.csv')).dateOrders).toEqual(['dmy', 'mdy']);
  });

  test('numbers that can be read two ways are asked', async () => {
    const path = put('ask.csv', `${header}\n2026-11-05,Lids,Lids,x,broad,a,"1,200",3,"1,500",1,"2,900"\n`);
    expect((await inspectFile(path, 'ask.csv')).decimalMarks).toEqual(['.', ',']);
  });

  test('a file of another kind, an empty one, a workbook: said plainly', async () => {
    const unknown = await inspectFile(put('other.csv', 'a,b,c\n1,2,3\n'), 'other.csv');
    expect(unknown.kind).toBeNull();
    await expect(inspectFile(put('empty.csv', ''), 'empty.csv')).rejects.toThrow('The file is empty.');
    await expect(inspectFile(put('book.xlsx', 'PK\u0003\u0004rest'), 'book.xlsx')).rejects.toThrow(
      'cannot be read as one',
    );
    await expect(inspectFile(put('head.csv', `${header}\n`), 'head.csv')).rejects.toThrow('no rows below');
    await expect(inspectFile(put('text.csv', 'just words\nand more\n'), 'text.csv')).rejects.toThrow(
      'No table',
    );
  });
});

describe('bad rows', () => {
  const content = [
    header,
    row('2026-11-05', 'good'),
    row('2026-02-31', 'no such day'),
    row('2026-11-05', 'words').replace(',3,', ',three,'),
    row('2026-11-05', 'less').replace('1.50', '-1.50'),
    row('2026-11-05', ''),
    row('2026-11-05', 'x'.repeat(600)),
    row('2026-11-06', 'also good'),
    'Total,,,,,,700,21,10.50,7,132.30',
  ].join('\n');

  test('each is told with row, column, value and reason; the good ones go in', async () => {
    const result = await load(content);
    expect(result).toMatchObject({ rowsRead: 8, rowsLoaded: 2, rowsRejected: 5, rowsTotals: 1 });
    expect(result.rejected.map(({ row: at, column, reason }) => [at, column, reason])).toEqual([
      [3, 'date', 'It is not a date.'],
      [4, 'clicks', 'It is not a number.'],
      [5, 'spend', 'It is below zero.'],
      [6, 'term', 'It is empty.'],
      [7, 'term', 'It has 600 characters, 500 are the most.'],
    ]);
    expect((await termSums()).map(({ text }) => text)).toEqual(['good', 'also good']);
  });

  test('the rejected rows are a file that can be repaired and loaded again', async () => {
    const { rejectedFile } = await load(content);
    const text = readFileSync(join(filesOf(1), rejectedFile!), 'utf8');
    expect(text.split('\n')[0]).toBe(`${header},rejected_row,rejected_because`);
    const repaired = text.replace('2026-02-31', '2026-11-07').split('\n').slice(0, 2).join('\n');
    expect((await load(repaired)).rowsLoaded).toBe(1);
    expect((await termSums()).map(({ text: term }) => term)).toContain('no such day');
  });

  test('a term that looks like a formula is escaped for the spreadsheet and comes back as it was', async () => {
    const { rejectedFile } = await load(
      `${header}\n${row('2026-11-05', 'fine')}\n${row('2026-02-31', '=lids')}\n`,
    );
    const text = readFileSync(join(filesOf(1), rejectedFile!), 'utf8');
    expect(text).toContain("'=lids");
    await load(text.replace('2026-02-31', '2026-11-07'));
    expect((await termSums()).map(({ text: term }) => term)).toContain('=lids');
  });

  test('a file of bad rows only changes nothing', async () => {
    await load(`${header}\n${row('2026-11-05', 'kept')}\n`);
    await expect(load(`${header}\n${row('2026-13-05', 'bad')}\n`)).rejects.toThrow('Row 2, column date');
    expect((await termSums()).map(({ text }) => text)).toEqual(['kept']);
  });

  test('a stray quote costs its own row: every line of the file is told of, by its true number', async () => {
    const lines = Array.from({ length: 1000 }, (_, i) => row('2026-11-05', `term ${i}`));
    lines[4] = row('2026-11-05', '"stray');
    lines[499] = row('2026-11-05', '"a ""quoted"" term"');
    lines[700] = row('2026-11-05', 'in"side');
    const result = await load(`${header}\n${lines.join('\n')}\n`);
    expect(result).toMatchObject({ rowsRead: 1000, rowsLoaded: 998, rowsRejected: 2, rowsTotals: 0 });
    expect(result.rejected.map(({ row: at, cells }) => [at, cells[0]])).toEqual([
      [6, lines[4]],
      [702, lines[700]],
    ]);
    expect((await termSums()).map(({ text }) => text)).toContain('a "quoted" term');
  });

  test('rows are counted as an editor counts lines, blank ones too', async () => {
    const bad = row('2026-02-31', 'no such day');
    const content = `${header}\n\n${row('2026-11-05', 'fine')}\n\n\n${bad}\n\n${bad.replace('no', '"no"')}\n`;
    const result = await load(content);
    expect(result.rejected.map(({ row: at }) => at)).toEqual([6, 8]);
    const quoted = await load(content.replace('fine', '"fine"').replace('\n', '\r\n'));
    expect(quoted).toMatchObject({ rowsRead: 3, rowsLoaded: 1, rowsRejected: 2 });
    expect(quoted.rejected.map(({ row: at }) => at)).toEqual([6, 8]);
  });

  test('a row that was cut, one with a cell too many, and figures that are none', async () => {
    const whole = row('2026-11-05', 'fine');
    const result = await load(
      [
        header,
        whole,
        whole.split(',').slice(0, 4).join(','),
        `${whole},left over`,
        whole.replace(',3,', ',12-34,'),
        whole.replace(',1.50,', ',2024-01-05,'),
        `${whole},`,
      ].join('\n'),
    );
    expect(result).toMatchObject({ rowsRead: 6, rowsLoaded: 2, rowsRejected: 4 });
    expect(result.rejected.map(({ row: at, column }) => [at, column])).toEqual([
      [3, 'match_type'],
      [4, ''],
      [5, 'clicks'],
      [6, 'spend'],
    ]);
    expect(result.rejected[0]!.reason).toBe('The row ends after 4 of 11 cells.');
  });

  test('a product may be called Total; a total is known by its sums or by saying nothing else', async () => {
    const result = await load(
      'sku,item_code,title,price\nTotal Gym,QY000001,Rowing machine,99.00\nSUM-100,QY000002,Scale,10.00\nTotal,,,109.00\n',
    );
    expect(result).toMatchObject({ kind: 'products', rowsRead: 3, rowsLoaded: 2, rowsTotals: 1 });
  });

  test('a quote that never closes is one rejected row, not a lost file', async () => {
    const result = await load(`${header}\n${row('2026-11-05', 'fine')}\n${row('2026-11-05', '"open')}\n`);
    expect(result.rowsLoaded).toBe(1);
    expect(result.rowsRejected).toBe(1);
  });
});

describe('loading again', () => {
  test('twice is once', async () => {
    const content = `${header}\n${row('2026-11-05', 'a')}\n${row('2026-11-06', 'b')}\n`;
    await load(content);
    const once = await termSums();
    const again = await load(content);
    expect(again.daysReplaced).toBe(2);
    expect(await termSums()).toEqual(once);
  });

  test('a later report of a day replaces that day and no other', async () => {
    await load(`${header}\n${row('2026-11-05', 'a')}\n${row('2026-11-06', 'b')}\n`);
    await load(`${header}\n${row('2026-11-06', 'b', 7)}\n${row('2026-11-06', 'c')}\n`);
    expect((await termSums()).map(({ day, text, clicks }) => [day, text, clicks])).toEqual([
      ['2026-11-05', 'a', 3],
      ['2026-11-06', 'b', 7],
      ['2026-11-06', 'c', 3],
    ]);
  });

  test('the same row twice in a file is summed, not lost', async () => {
    await load(`${header}\n${row('2026-11-05', 'a')}\n${row('2026-11-05', 'a', 4)}\n`);
    expect((await termSums())[0]!.clicks).toBe(7);
  });

  test('rows of one key far apart, pieces and days between them, are summed too', async () => {
    const between = Array.from({ length: 60_000 }, (_, i) =>
      row(`2026-10-${String(1 + (i % 28)).padStart(2, '0')}`, `term ${i % 3000}`),
    );
    const lines = [header, row('2026-11-05', 'a'), ...between, row('2026-11-05', 'a', 4), ''];
    const result = await load(lines.join('\n'));
    expect(result.rowsLoaded).toBe(60_002);
    const [a] = await sql`select clicks, orders from term_day where day = '2026-11-05'`;
    expect(a).toEqual({ clicks: 7, orders: 2 });
    const [sums] = await sql`select sum(clicks)::int as clicks, count(*)::int as rows from term_day`;
    expect(sums!.clicks).toBe(60_000 * 3 + 7);
    const [keys] = await sql`
      select count(*)::int as rows from (select distinct day, target_id, term_id from term_day) d`;
    expect(sums!.rows).toBe(keys!.rows);
  });

  test('more terms than the reader remembers at once stay one term each', async () => {
    const many = 310_000;
    const lines = [header];
    for (let i = 0; i < many; i++) lines.push(row('2026-11-05', `t${i}`, 1));
    for (let i = 0; i < 100; i++) lines.push(row('2026-11-06', `t${i * 1000}`, 1));
    await load(lines.join('\n'));
    const [found] = await sql`
      select (select count(*)::int from term) as terms, (select sum(clicks)::int from term_day) as clicks,
        (select count(*)::int from term_day d join term t using (account_id, term_id)
          where d.day = '2026-11-06' and t.text = 't5000') as again`;
    expect(found).toEqual({ terms: many, clicks: many + 100, again: 1 });
  }, 120_000);

  test('known by id, a renamed campaign keeps its history; by path, a file without ids meets the same target', async () => {
    const withIds = (campaign: string, day: string) =>
      `date,campaign,campaign_id,ad_group,ad_group_id,target,target_id,match_type,impressions,clicks,spend\n` +
      `${day},${campaign},c1,Lids,g1,airlock lids,t1,broad,100,3,1.50\n`;
    await load(withIds('Lids', '2026-11-05'));
    await load(withIds('Lids renamed', '2026-11-06'));
    const paths =
      'date,campaign,ad_group,target,match_type,impressions,clicks,spend\n2026-11-07,Lids,Lids,airlock lids,broad,9,1,0.4\n';
    await load(paths);
    const [known] = await sql`select count(*)::int as targets from target`;
    expect(known!.targets).toBe(1);
    const days = await sql`select count(distinct day)::int as days from target_day`;
    expect(days[0]!.days).toBe(3);
  });
});

describe('structure', () => {
  const structure = (bid: string, extra = '') =>
    'entity,campaign_id,campaign,ad_group_id,ad_group,target_id,target_kind,match_type,expression,bid,status,kind,daily_budget,placement,modifier,sku,negative_id\n' +
    'campaign,c1,Lids,,,,,,,,enabled,manual,12.00,,,,\n' +
    'placement_modifier,c1,Lids,,,,,,,,,,,top_of_search,35,,\n' +
    'ad_group,c1,Lids,g1,Lids,,,,,,enabled,,,,,,\n' +
    'product_ad,c1,Lids,g1,Lids,,,,,,enabled,,,,,TT-LID4,\n' +
    `target,c1,Lids,g1,Lids,t1,keyword,broad,airlock lids,${bid},enabled,,,,,,\n` +
    `target,c1,Lids,g1,Lids,t2,keyword,exact,jar lids,0.40,enabled,,,,,,\n` +
    `negative,c1,Lids,g1,Lids,,,negative_exact,canning,,enabled,,,,,,n1\n${extra}`;

  test('objects come in, a bid that differs later is a change', async () => {
    await load(structure('0.50'));
    await load(structure('0.62'));
    const bids =
      await sql`select t.ext_id, t.bid, t.bid_changed_on is not null as changed from target t order by ext_id`;
    expect([...bids]).toEqual([
      { ext_id: 't1', bid: 620_000, changed: true },
      { ext_id: 't2', bid: 400_000, changed: false },
    ]);
    const [campaign] = await sql`select daily_budget from campaign`;
    expect(campaign!.daily_budget).toBe(12_000_000);
    expect((await sql`select 1 from negative`).length).toBe(1);
  });

  test('a whole structure archives what it does not name; a file does not', async () => {
    await load(structure('0.50'));
    const less = structure('0.50').replace(/^target,.*t2.*\n/m, '');
    await load(less);
    expect((await sql`select 1 from target where status = 'archived'`).length).toBe(0);
    await load(less, { whole: true });
    const archived = await sql`select ext_id from target where status = 'archived'`;
    expect(archived.map((one) => one.ext_id)).toEqual(['t2']);
  });

  test('a line of no known entity is rejected with its reason', async () => {
    const result = await load(structure('0.50', 'planet,c1,Lids,,,,,,,,,,,,,,\n'));
    expect(result.rejected[0]).toMatchObject({ column: 'entity', value: 'planet' });
  });
});
