import type { LoadResult } from '../../src/answers/imports.ts';
import { readFileSync } from 'node:fs';
import excel from 'exceljs';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { Database } from '../../src/server/db/connection.ts';
import { inspectFile } from '../../src/server/imports/inspect.ts';
import { LoadedAccount } from '../../src/server/memory/load.ts';
import { startImporter, type Importer } from '../support/importing.ts';

let sql: Database;
let put: Importer['put'];
let load: Importer['loadPath'];
let csv: Importer['load'];
beforeAll(async () => {
  ({ sql, put, loadPath: load, load: csv } = await startImporter());
});
afterAll(() => sql.end());
beforeEach(async () => {
  await sql`truncate target_day, term_day, placement_day, campaign_hour, product_day, rank_day, sold_day, summary, term, target,
    negative, ad_group, campaign, report_day, day_sight, day_block, import, product, sheet, line`;
  await sql`update account set today = null`;
});

const reasons = (result: LoadResult) =>
  result.rejected.map(({ row, column, value, reason }) => [row, column, value, reason]);
const campaigns = () =>
  csv('entity,campaign,status,daily_budget\ncampaign,Lids,enabled,5\ncampaign,Jars,enabled,9\n');

describe('a workbook', () => {
  async function book(): Promise<string> {
    const made = new excel.Workbook();
    made.addWorksheet('Read me').addRow(['Figures of the season']);
    const terms = made.addWorksheet('Terms');
    terms.addRow(['Report of the season']);
    terms.addRow([]);
    terms.addRow([
      'Date',
      'Campaign',
      'Ad group',
      'Keyword',
      'Match',
      'Search term',
      'Impr.',
      'Clicks',
      'Cost',
      'Orders',
      'Revenue',
    ]);
    terms.addRow([
      new Date('2026-11-03T00:00:00Z'),
      'Lids',
      'Lids',
      'airlock lids',
      'broad',
      'lid set',
      100,
      3,
      1.234,
      1,
      18.9,
    ]);
    terms.addRow([]);
    terms.addRow([
      new Date('2026-11-04T00:00:00Z'),
      'Lids',
      'Lids',
      'airlock lids',
      'broad',
      'lid jar',
      90,
      'many',
      2,
      0,
      0,
    ]);
    terms.addRow([
      new Date('2026-11-04T00:00:00Z'),
      'Lids',
      'Lids',
      'airlock lids',
      'broad',
      { formula: '"lid " & "pack"', result: 'lid pack' },
      90,
      2,
      1.5,
      0,
      0,
    ]);
    terms.addRow(['Total', '', '', '', '', '', 280, 5, 4.734, 1, 18.9]);
    const products = made.addWorksheet('Products');
    products.addRow(['SKU', 'Item code', 'Title', 'Price', 'Unit cost', 'Fee rate', 'Rating']);
    const row = products.addRow(['LID-1', 'QY000001', 'Lid set', 18.9, 4, 0.15, 4.4]);
    row.getCell(6).numFmt = '0%';
    return put('book.xlsx', Buffer.from(await made.xlsx.writeBuffer()));
  }

  test('its sheets are told apart; dates, numbers and formulas come as they are meant; bad cells by their row', async () => {
    const path = await book();
    const seen = await inspectFile(path, 'book.xlsx');
    expect(seen.sheets).toEqual([
      { name: 'Read me', kind: null },
      { name: 'Terms', kind: 'terms-daily' },
      { name: 'Products', kind: 'products' },
    ]);
    expect([seen.sheet, seen.kind, seen.titleRows]).toEqual(['Terms', 'terms-daily', 2]);
    expect([seen.dateOrders, seen.decimalMarks]).toEqual([['ymd'], ['.']]);
    const result = await load(path);
    expect([result.rowsRead, result.rowsLoaded, result.rowsRejected, result.rowsTotals]).toEqual([
      4, 2, 1, 1,
    ]);
    expect(reasons(result)).toEqual([[6, 'clicks', 'many', 'It is not a number.']]);
    const rows = await sql`
      select d.day, m.text, d.clicks, d.spend, d.orders, d.sales from term_day d join term m using (account_id, term_id)
      order by d.day`;
    expect([...rows]).toEqual([
      { day: '2026-11-03', text: 'lid set', clicks: 3, spend: 1_234_000, orders: 1, sales: 18_900_000 },
      { day: '2026-11-04', text: 'lid pack', clicks: 2, spend: 1_500_000, orders: 0, sales: 0 },
    ]);
  });

  test('another sheet is another load', async () => {
    const result = await load(await book(), { sheet: 'Products' });
    expect(result.rowsLoaded).toBe(1);
    const [product] = await sql`select sku, title, price, unit_cost, fee_rate, rating, stock from product`;
    expect(product).toEqual({
      sku: 'LID-1',
      title: 'Lid set',
      price: 18_900_000,
      unit_cost: 4_000_000,
      fee_rate: 0.15,
      rating: 4.4,
      stock: null,
    });
    await expect(inspectFile(await book(), 'book.xlsx', { sheet: 'Nowhere' })).rejects.toThrow(
      'no sheet "Nowhere"',
    );
  });
});

describe('JSON Lines', () => {
  const line = (more: object) =>
    JSON.stringify({
      date: '2026-11-03',
      campaign: 'Lids',
      placement: 'top of search',
      impressions: 10,
      clicks: 2,
      spend: 1.234,
      ...more,
    });

  test('each line is a row by its names; what is no row is told by its line', async () => {
    const text = [
      line({ orders: 1, sales: 12.5 }),
      '',
      '{"date": ',
      line({ clicks: [1] }),
      line({ mood: 'good' }),
      line({ placement: 'Product pages', orders: null }),
    ];
    const result = await csv(text.join('\n'));
    expect([result.kind, result.rowsRead, result.rowsLoaded]).toEqual(['placements-daily', 5, 3]);
    expect(reasons(result)).toEqual([
      [3, '', '', 'The line is no JSON.'],
      [4, '', '', 'The field "clicks" holds more than one value.'],
    ]);
    const late = [...Array.from({ length: 400 }, () => line({})), line({ mood: 'good' })].join('\n');
    expect(reasons(await csv(late))).toEqual([
      [401, '', '', 'It has a field "mood" that the first lines have not.'],
    ]);
  });
});

describe('the other kinds', () => {
  test('placements and hours of campaigns, known or new, by name or id', async () => {
    await campaigns();
    const placements = await csv(
      'date,campaign,placement,impressions,clicks,spend,orders,sales\n2026-11-03,Lids,Top of search,10,2,1.20,1,18.90\n2026-11-03,New,rest_of_search,5,1,0.40,0,0\n2026-11-03,Lids,on the moon,5,1,0.40,0,0\n',
    );
    expect(reasons(placements)).toEqual([
      [
        4,
        'placement',
        'on the moon',
        'It is none of top_of_search, rest_of_search, product_pages, category_browse.',
      ],
    ]);
    const hours = await csv(
      'date,hour,campaign,campaign_id,impressions,clicks,spend,orders,sales,minutes_in_budget\n2026-11-03,17,Lids,,10,2,1.20,1,18.90,42\n2026-11-03,24,Lids,,1,0,0,0,0,60\n2026-11-03,3,Fresh,c9,7,0,0,0,0,-\n',
    );
    expect(reasons(hours)).toEqual([[3, 'hour', '24', 'Hours go from 0 to 23.']]);
    expect([
      ...(await sql`
        select c.name, d.placement, d.spend from placement_day d join campaign c using (account_id, campaign_id) order by 1`),
    ]).toEqual([
      { name: 'Lids', placement: 'top_of_search', spend: 1_200_000 },
      { name: 'New', placement: 'rest_of_search', spend: 400_000 },
    ]);
    expect([
      ...(await sql`
        select c.name, c.ext_id, d.hour, d.clicks, d.units, d.minutes_in_budget as minutes from campaign_hour d
        join campaign c using (account_id, campaign_id) order by 1`),
    ]).toEqual([
      { name: 'Fresh', ext_id: 'c9', hour: 3, clicks: 0, units: 0, minutes: null },
      { name: 'Lids', ext_id: null, hour: 17, clicks: 2, units: 1, minutes: 42 },
    ]);
  });

  test('products by day, and where they stand; not found is not first', async () => {
    await csv(
      'date,sku,sessions,total_orders,total_sales\n2026-11-03,LID-1,40,3,56.70\n2026-11-04,LID-1,,1,18.90\n',
    );
    expect([
      ...(await sql`select day, sessions, total_units, total_sales from product_day order by day`),
    ]).toEqual([
      { day: '2026-11-03', sessions: 40, total_units: 3, total_sales: 56_700_000 },
      { day: '2026-11-04', sessions: 0, total_units: 1, total_sales: 18_900_000 },
    ]);
    const ranks = await csv(
      'date,sku,keyword,organic_rank,sponsored_rank,search_volume\n2026-11-03,LID-1,airlock lids,7,,900\n2026-11-03,LID-1,lid set,0,2,400\n',
    );
    expect(reasons(ranks)).toEqual([
      [3, 'organic_rank', '0', 'Positions begin at 1; leave it empty when it was not found.'],
    ]);
    expect([...(await sql`select keyword, organic_rank, sponsored_rank from rank_day`)]).toEqual([
      { keyword: 'airlock lids', organic_rank: 7, sponsored_rank: null },
    ]);
  });

  test('what ad groups sold, product by product: by id or by names, and a later file takes the place of its days', async () => {
    const head = 'date,campaign,campaign_id,ad_group,ad_group_id,sku,orders,units,sales\n';
    const loaded = await csv(
      `${head}2026-11-03,Lids,c1,Broad,g1,LID-1,2,3,37.80\n2026-11-03,Lids,c1,Broad,g1,JAR-9,1,,24.00\n` +
        '2026-11-03,Jars,,Exact,,JAR-9,1,1,24.00\n2026-11-03,Jars,,Exact,,JAR-9,many,1,24.00\n',
    );
    expect(loaded.kind).toBe('sold-daily');
    expect(reasons(loaded)).toEqual([[5, 'orders', 'many', expect.any(String) as string]]);
    await csv(`${head}2026-11-04,Lids,c1,Broad renamed,g1,LID-1,1,1,18.90\n`);
    const sold = () => sql`
      select g.name, d.day, d.sku, d.orders, d.units, d.sales from sold_day d
      join ad_group g using (account_id, ad_group_id) order by d.day, g.name, d.sku`;
    const first = [
      { name: 'Broad', day: '2026-11-03', sku: 'JAR-9', orders: 1, units: 1, sales: 24_000_000 },
      { name: 'Broad', day: '2026-11-03', sku: 'LID-1', orders: 2, units: 3, sales: 37_800_000 },
      { name: 'Exact', day: '2026-11-03', sku: 'JAR-9', orders: 1, units: 1, sales: 24_000_000 },
    ];
    const second = { name: 'Broad', day: '2026-11-04', sku: 'LID-1', orders: 1, units: 1, sales: 18_900_000 };
    expect([...(await sold())]).toEqual([...first, second]);
    await csv(`${head}2026-11-03,Lids,c1,Broad,g1,LID-1,5,5,94.50\n`);
    expect([...(await sold())]).toEqual([{ ...first[1], orders: 5, units: 5, sales: 94_500_000 }, second]);
  });

  test('products keep what a later file leaves out; shares are read either way', async () => {
    await csv(
      'sku,item_code,title,price,unit_cost,fee_rate,stock\nA,QY1,Jar,20,5,15%,7\nB,QY2,Lid,10,,0.12,\n',
    );
    const again = await csv(
      'sku,item_code,title,price,fee_rate\nA,QY1,Jar large,21,150\nB,QY2,Lid,11,0.13\n',
    );
    expect(reasons(again)).toEqual([
      [2, 'fee_rate', '150', 'It is above 5: write a share as 0.15 or as 15%.'],
    ]);
    await csv('sku,item_code,title,price\nA,QY1,Jar large,21\n');
    expect([
      ...(await sql`select sku, title, price, unit_cost, fee_rate, stock from product order by sku`),
    ]).toEqual([
      { sku: 'A', title: 'Jar large', price: 21_000_000, unit_cost: 5_000_000, fee_rate: 0.15, stock: 7 },
      { sku: 'B', title: 'Lid', price: 11_000_000, unit_cost: null, fee_rate: 0.13, stock: null },
    ]);
  });

  test('goals by name, id or margin; a goal of what is not there is told', async () => {
    await campaigns();
    // Margin before ads: (20 - 5 - 0.15 x 20) / 20 = 0.6.
    await csv('sku,item_code,title,price,unit_cost,fee_rate\nA,QY1,Jar,20,5,15%\n');
    const result = await csv(
      'scope,name,target_acos,target_margin,bid_floor,bid_ceiling\naccount,,28%,,,\ncampaign,Lids,0.2,,0.10,1.50\nproduct,Jar,,0.25,,\ncampaign,Nowhere,0.2,,,\nmoon,x,0.2,,,\nproduct,A,,0.7,,\ncampaign,Jars,0.2,,2,1\n',
    );
    expect(reasons(result)).toEqual([
      [5, 'name', 'Nowhere', 'There is no campaign “Nowhere” here.'],
      [6, 'scope', 'moon', 'Goals are kept for account, product, campaign, ad_group; not for this.'],
      [
        7,
        'target_margin',
        '0.7',
        'A has a margin of 60 % before ads: 70 % after them leave nothing to advertise with.',
      ],
      [8, 'bid_floor', '2000000', 'The floor, 2.00, would lie above the ceiling, 1.00.'],
    ]);
    const goals = await sql`
      select scope, key, objective, target_acos, target_margin, bid_floor, bid_ceiling from goal order by scope`;
    const [lids] = await sql`select campaign_id::text as id from campaign where name = 'Lids'`;
    const nothing = { target_acos: null, target_margin: null, bid_floor: null, bid_ceiling: null };
    expect(goals).toEqual([
      { ...nothing, scope: 'account', key: '', objective: 'acos', target_acos: 0.28 },
      {
        scope: 'campaign',
        key: lids!.id,
        objective: 'acos',
        target_acos: 0.2,
        target_margin: null,
        bid_floor: 100_000,
        bid_ceiling: 1_500_000,
      },
      { ...nothing, scope: 'product', key: 'A', objective: 'margin', target_margin: 0.25 },
    ]);
  });

  test('goals of ad groups with their method; words that are none, and what wants a person’s word', async () => {
    await csv(
      'entity,campaign,ad_group,status,daily_budget\ncampaign,Lids,,enabled,5\nad_group,Lids,Lids wide,enabled,\n',
    );
    await csv('sku,item_code,title,price,unit_cost,fee_rate\nA,QY1,Jar,20,5,15%\n');
    const result = await csv(
      'scope,name,objective,target_acos,stance,method\n' +
        'ad_group,Lids wide,,21%,careful,revenue per click\nad_group,Lids wide,,21%,careful,rpc\ncampaign,Lids,,,bold,bands\nproduct,Jar,most,,,\nproduct,Jar,,0.8,,\n' +
        'product,Jar,profit,,,\ncampaign,Lids,,,,\n',
    );
    expect(reasons(result)).toEqual([
      [2, 'method', 'revenue per click', 'It is none of evidence, strict, bands, rpc.'],
      [5, 'objective', 'most', 'It is none of acos, margin, profit.'],
      [
        6,
        'target_acos',
        '0.8',
        '80 % lies above the break-even of A, 60 %: every order by an ad would lose money. Set it on Goals where it is meant.',
      ],
      [8, 'target_acos', '', 'It says no goal.'],
    ]);
    const goals =
      await sql`select scope, objective, stance, method from goal where stance is not null or objective = 'profit' order by scope`;
    expect(goals).toEqual([
      { scope: 'ad_group', objective: 'acos', stance: 'careful', method: 'rpc' },
      { scope: 'campaign', objective: null, stance: 'bold', method: 'bands' },
      { scope: 'product', objective: 'profit', stance: null, method: null },
    ]);
  });
});

describe('changes', () => {
  const head =
    'line_id,sheet,sent_on,action,entity,campaign,ad_group,match_type,expression,field,old_value,new_value,reason,state,message\n';
  beforeEach(async () => {
    await csv(
      'entity,campaign,ad_group,match_type,expression,bid,status\ncampaign,Lids,,,,,enabled\nad_group,Lids,Core,,,,enabled\ntarget,Lids,Core,exact,lid set,0.45,enabled\n',
    );
  });

  test('lines that are not known go onto the open sheet; sent ones come back as history; twice is once', async () => {
    const text = `${head}11,,,update,target,Lids,Core,exact,lid set,bid,0.45,0.40,too dear,open,\n12,,,create,negative,Lids,Core,negative_exact,free lid,negative,,,wasted,,\n3,7,2026-11-02,update,campaign,Lids,,,,daily_budget,5,6.50,more room,applied,\n4,7,2026-11-02,update,target,Lids,Core,exact,lid set,bid,0.50,0.45,dear,refused,Bid too low\n`;
    expect((await csv(text)).rowsLoaded).toBe(4);
    const lines = () => sql`
      select s.state as sheet, s.sent_on, l.entity, l.field, l.old_value, l.new_value, l.state, l.message
      from line l join sheet s using (account_id, sheet_id) order by l.line_id`;
    const first = [...(await lines())];
    expect(first).toEqual([
      {
        sheet: 'open',
        sent_on: null,
        entity: 'target',
        field: 'bid',
        old_value: '450000',
        new_value: '400000',
        state: 'open',
        message: null,
      },
      {
        sheet: 'open',
        sent_on: null,
        entity: 'negative',
        field: 'negative',
        old_value: null,
        new_value: null,
        state: 'open',
        message: null,
      },
      {
        sheet: 'sent',
        sent_on: '2026-11-02',
        entity: 'campaign',
        field: 'daily_budget',
        old_value: '5000000',
        new_value: '6500000',
        state: 'applied',
        message: null,
      },
      {
        sheet: 'sent',
        sent_on: '2026-11-02',
        entity: 'target',
        field: 'bid',
        old_value: '500000',
        new_value: '450000',
        state: 'refused',
        message: 'Bid too low',
      },
    ]);
    const [open] = await sql`select line_id from line where entity = 'target' and state = 'open'`;
    await csv(
      `${head}${open!.line_id},,,update,target,Lids,Core,exact,lid set,bid,0.45,0.38,too dear,open,\n`,
    );
    expect([...(await lines())]).toEqual([{ ...first[0], new_value: '380000' }, ...first.slice(1)]);
  });

  test('answers of more lines than are taken at a time close the sheet once; what is not answered waits', async () => {
    const count = 6200;
    const all = Array.from({ length: count }, (_, i) => `jar lids ${i}`);
    await csv(
      `entity,campaign,ad_group,match_type,expression,bid,status\n${all.map((one) => `target,Lids,Core,exact,${one},0.45,enabled\n`).join('')}`,
    );
    const row = (one: string, id: number | '', state: string, message = '') =>
      `${id},,,update,target,Lids,Core,exact,${one},bid,0.45,0.40,too dear,${state},${message}\n`;
    await csv(head + all.map((one) => row(one, '', 'open')).join(''));
    const open = await sql<{ line_id: number; expression: string }[]>`
      select line_id, expression from line where state = 'open' order by line_id`;
    expect(open).toHaveLength(count);
    const answered = open.slice(100);
    const told = answered.map(({ line_id, expression }, i) =>
      i % 10 === 0 ? row(expression, line_id, 'refused', 'No') : row(expression, line_id, 'applied'),
    );
    expect((await csv(head + told.join(''))).rowsLoaded).toBe(count - 100);
    const sheets = await sql<{ state: string; lines: number; refused: number }[]>`
      select s.state, count(*)::int as lines, count(*) filter (where l.state = 'refused')::int as refused
      from sheet s join line l using (account_id, sheet_id) group by s.sheet_id, s.state order by s.sheet_id`;
    expect(sheets).toEqual([
      { state: 'sent', lines: count - 100, refused: (count - 100) / 10 },
      { state: 'open', lines: 100, refused: 0 },
    ]);
    const [bids] = await sql`select count(*)::int as n from target where bid = 400000`;
    expect(bids).toEqual({ n: ((count - 100) * 9) / 10 });
  });

  test('a line that names nothing here, or a bid nobody would take, is told', async () => {
    const result = await csv(
      `${head},,,update,target,Lids,Core,exact,lid set,bid,0.45,0.401,x,,\n,,,update,target,Lids,Core,exact,no such,bid,,0.40,x,,\n,,,update,target,Caps,,exact,lid set,bid,,0.40,x,,\n,,,paint,target,Lids,Core,exact,lid set,bid,,0.40,x,,\n,,,update,target,Lids,Core,exact,lid set,bid,0.45,0.44,x,,\n`,
    );
    expect(reasons(result)).toEqual([
      [2, 'new_value', '401000', 'A bid lies between 0.03 and 60.00, in steps of 0.01.'],
      [3, 'expression', 'no such', 'There is no such target here.'],
      [4, 'campaign', 'Caps', 'There is no campaign “Caps” here.'],
      [5, 'action', 'paint', 'It is none of create, update, archive.'],
    ]);
    expect((await sql`select 1 from line`).length).toBe(1);
  });
});

describe('summaries', () => {
  const head =
    'start_date,end_date,campaign,ad_group,target,match_type,impressions,clicks,spend,orders,sales\n';

  test('a span told again replaces itself, and stops counting once its days are told', async () => {
    const first = await csv(`${head}2026-10-01,2026-10-31,Lids,Core,lid set,exact,900,60,30,3,56.70\n`);
    expect([first.kind, first.firstDay, first.lastDay]).toEqual([
      'targets-daily',
      '2026-10-01',
      '2026-10-31',
    ]);
    await csv(`${head}2026-10-01,2026-10-31,Lids,Core,lid set,exact,900,61,31,3,56.70\n`);
    const counted = () => sql`select clicks, spend, day from counted_summary`;
    expect([...(await counted())]).toEqual([{ clicks: 61, spend: 31_000_000, day: '2026-10-16' }]);
    await csv(
      'date,campaign,ad_group,target,match_type,impressions,clicks,spend,orders,sales\n2026-10-20,Lids,Core,lid set,exact,9,6,3,0,0\n',
    );
    expect(await counted()).toHaveLength(0);
    const wrong = csv(`${head}2026-10-31,2026-10-01,Lids,Core,lid set,exact,900,60,30,3,56.70\n`);
    await expect(wrong).rejects.toThrow('It lies before the first day.');
  });
});

test('judging counts a summary that lies in its window, and none that does not', async () => {
  const head =
    'start_date,end_date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n';
  const line = 'Lids,Core,lid set,broad,lid pack,900,60,30,3,56.70';
  await csv(`${head}2026-10-01,2026-10-31,${line}\n`);
  await csv(`${head}2026-10-01,2026-10-31,${line}\n`.replace(',term,', ',').replace(',lid pack,', ','));
  // Days later on settle it: evidence ends with the last settled day.
  await csv(
    'date,campaign,ad_group,target,match_type,impressions,clicks,spend,orders,sales\n2026-12-24,Lids,Core,other,exact,9,1,0.50,0,0\n',
  );
  const account = (await LoadedAccount.open(sql, 1))!;
  const judged = async (window: { from: string; to: string }) => {
    const { targets, pairs } = await account.frame(window, 'pairs');
    const evidence = await account.evidenceFor(window, 'pairs');
    return [
      targets.clicks[0],
      evidence.targets.seen.clicks[0],
      pairs!.clicks[0],
      evidence.pairs!.seen.orders[0],
    ];
  };
  expect(await judged({ from: '2026-10-01', to: '2026-11-17' })).toEqual([60, 60, 60, 3]);
  // The window holds its middle day, and not all of it: no figure, but evidence.
  expect(await judged({ from: '2026-10-10', to: '2026-11-17' })).toEqual([0, 60, 0, 3]);
});

test('every kind has its schema in docs/formats, and the schemas are those of the code', async () => {
  const { tableSchemas } = await import('../../src/server/exports/schemas.ts');
  for (const [name, schema] of Object.entries(tableSchemas())) {
    expect(JSON.parse(readFileSync(`docs/formats/${name}`, 'utf8')), name).toEqual(schema);
  }
});
