import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { addDays } from '../../src/core/metrics/days.ts';
import { callApi } from '../../scripts/lib/processes.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { startStack, structureOf, type Stack } from '../support/stack.ts';
import { openSheetOf } from '../support/sheets.ts';

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

const window = { from: '2026-10-01', to: '2026-11-14' };

interface Answer {
  count: number;
  spend: number;
  totals: (number | string | null)[];
  rows: {
    key: string;
    values: (number | string | null)[];
    interval?: { low: number; high: number } | null;
  }[];
}
const table = (request: object) =>
  callApi<Answer>(stack.url, 'POST', '/api/1/explore/table', { window, ...request });

interface PreviewAnswer {
  changed: number;
  unchanged: number;
  held: Record<string, number>;
  problems: Record<string, number>;
  rows: { key: string; old: string | null; next: string | null; held: string[]; problem: string | null }[];
}
const preview = (request: object) =>
  callApi<PreviewAnswer>(stack.url, 'POST', '/api/1/explore/preview', { window, ...request });
const apply = (request: object) =>
  callApi<{ groups: string[]; lines: number; changed: number }>(stack.url, 'POST', '/api/1/explore/edit', {
    window,
    ...request,
  });

describe('tables', () => {
  test.each([
    ['campaigns', 'c.campaign_id'],
    ['ad_groups', 'g.ad_group_id'],
    ['targets', 't.target_id'],
    ['budget_groups', 'c.budget_group'],
  ])('%s carry the sums of their days, and ratios of those sums', async (level, key) => {
    const plain = await sql.unsafe<Record<string, number | string>[]>(
      `select ${key}::text as key, sum(d.clicks)::int as clicks, sum(d.spend)::float8 as spend,
        sum(d.orders)::int as orders, sum(d.sales)::float8 as sales
       from target_day d join target t using (account_id, target_id) join ad_group g using (account_id, ad_group_id)
       join campaign c using (account_id, campaign_id)
       where d.day between '${window.from}' and '${window.to}' and ${key} is not null group by 1`,
    );
    const columns = ['clicks', 'spend', 'orders', 'sales', 'acos', 'cpc', 'cvr'];
    const answer = await table({ level, columns, limit: 2000, sort: 'spend' });
    const byKey = new Map(answer.rows.map((row) => [row.key, row.values]));
    expect(plain.length).toBeGreaterThan(level === 'budget_groups' ? 0 : 30);
    for (const { key: id, clicks, spend, orders, sales } of plain as Record<string, number>[]) {
      const acos = sales! > 0 ? spend! / sales! : spend! > 0 ? 'no sales' : null;
      const [cpc, cvr] = clicks! > 0 ? [spend! / clicks!, orders! / clicks!] : [null, null];
      expect(byKey.get(String(id))).toEqual([clicks, spend, orders, sales, acos, cpc, cvr]);
    }
    const sum = (name: string) => plain.reduce((total, row) => total + Number(row[name]), 0);
    expect(answer.totals).toEqual([
      sum('clicks'),
      sum('spend'),
      sum('orders'),
      sum('sales'),
      sum('spend') / sum('sales'),
      sum('spend') / sum('clicks'),
      sum('orders') / sum('clicks'),
    ]);
  });

  test('terms stand with the target that caught them; all levels tell the same money', async () => {
    const [terms, targets, account, placements] = await Promise.all(
      ['terms', 'targets', 'account', 'placements'].map((level) =>
        table({ level, columns: ['clicks', 'spend', 'sales'] }),
      ),
    );
    expect(terms!.count).toBeGreaterThan(9000);
    expect(terms!.totals).toEqual(targets!.totals);
    expect(account!.totals).toEqual(targets!.totals);
    expect(placements!.totals).toEqual(targets!.totals);
    const [first] = (
      await table({
        level: 'terms',
        columns: ['name', 'target', 'ad_group', 'clicks'],
        sort: 'clicks',
        limit: 1,
      })
    ).rows;
    const [plain] = await sql`
      select m.text, t.expression, g.name, sum(d.clicks)::int as clicks from term_day d join term m using (account_id, term_id)
      join target t using (account_id, target_id) join ad_group g using (account_id, ad_group_id)
      where d.day between ${window.from} and ${window.to} group by d.target_id, d.term_id, 1, 2, 3 order by 4 desc limit 1`;
    expect(first!.values).toEqual([plain!.text, plain!.expression, plain!.name, plain!.clicks]);
  });

  test('windows stand side by side, with their differences', async () => {
    const [row] = (
      await table({
        level: 'account',
        columns: ['spend', 'spend@before', 'spend@diff', 'spend@change', 'spend@d14', 'acos@d14'],
        comparison: { from: '2026-09-01', to: '2026-09-30' },
      })
    ).rows;
    const spendOf = async (from: string, to: string) => {
      const [one] =
        await sql`select sum(spend)::float8 as spend, sum(sales)::float8 as sales from target_day where day between ${from} and ${to}`;
      return one as unknown as { spend: number; sales: number };
    };
    const now = await spendOf(window.from, window.to);
    const before = await spendOf('2026-09-01', '2026-09-30');
    const last = await spendOf('2026-11-01', '2026-11-14');
    expect(row!.values).toEqual([
      now.spend,
      before.spend,
      now.spend - before.spend,
      (now.spend - before.spend) / before.spend,
      last.spend,
      last.spend / last.sales,
    ]);
  });

  test('conditions reach parents, other windows and multiples of other columns, over the whole account', async () => {
    const where = {
      all: [
        { column: 'campaign_status', is: 'equals', value: 'enabled' },
        { column: 'acos', is: 'above', value: 1.3, times: 'target_acos' },
        {
          any: [
            { column: 'clicks@d14', is: 'at_least', value: 5 },
            { column: 'name', is: 'words', value: 'weights' },
          ],
        },
      ],
    };
    const answer = await table({
      level: 'targets',
      where,
      columns: ['acos', 'target_acos', 'clicks@d14', 'name'],
      limit: 2000,
    });
    expect(answer.count).toBeGreaterThan(10);
    for (const { values } of answer.rows) {
      const [acos, goal, clicks, name] = values as [number, number, number, string];
      expect(acos).toBeGreaterThan(1.3 * goal);
      expect(clicks >= 5 || name.includes('weights')).toBe(true);
    }
    // Spend without sales is found by spend, never by a number of its ACOS.
    expect(answer.rows.some(({ values }) => values[0] === 'no sales')).toBe(false);
  });

  test('inside an object, sorted both ways, page after page', async () => {
    const [campaign] = (
      await table({ level: 'campaigns', columns: ['name', 'spend'], sort: 'spend', limit: 1 })
    ).rows;
    const within = { level: 'campaigns', id: campaign!.key };
    const request = { level: 'targets', within, columns: ['acos', 'campaign', 'spend'] };
    const all = await table({ ...request, sort: 'acos', limit: 2000 });
    expect(all.rows.every(({ values }) => values[1] === campaign!.values[0])).toBe(true);
    expect(all.totals[2]).toBe(campaign!.values[1]);
    const order = (value: unknown) =>
      value === null ? -1 : value === 'no sales' ? Infinity : (value as number);
    const values = all.rows.map((row) => order(row.values[0]));
    expect(values).toEqual([...values].sort((a, b) => b - a));
    const page = await table({ ...request, sort: 'acos', offset: 3, limit: 4 });
    expect(page.rows.map(({ key }) => key)).toEqual(all.rows.slice(3, 7).map(({ key }) => key));
    const up = await table({ ...request, sort: 'acos', descending: false, limit: 2000 });
    const known = up.rows.map((row) => row.values[0]).filter((value) => value !== null);
    expect(known[known.length - 1] === 'no sales' || typeof known[0] === 'number').toBe(true);
  });

  test('the verdict of a target is the one that the round gives it', async () => {
    const round = await callApi<{
      findings: {
        queue: string;
        targetId: string;
        verdict: string;
        working: { cpc: number | null };
      }[];
    }>(stack.url, 'GET', `/api/1/round?from=${window.from}&to=${window.to}`);
    const answer = await table({ level: 'targets', columns: ['verdict', 'cpc'], limit: 2000 });
    const byKey = new Map(answer.rows.map((row) => [row.key, row]));
    const bids = round.findings.filter(({ queue }) => queue === 'targets');
    expect(bids.length).toBeGreaterThan(100);
    let compared = 0;
    for (const { targetId, verdict, working } of bids) {
      const [told, cpc] = byKey.get(targetId)!.values;
      // The round asks what a click costs at the present bid, a table what it cost in its window.
      if (working.cpc === null || Math.abs(Number(cpc) / working.cpc - 1) > 0.02) continue;
      compared++;
      expect(told).toBe(verdict);
    }
    expect(compared).toBeGreaterThan(50);
  });

  test('a term says what serves it and what blocks it', async () => {
    const served = await table({
      level: 'terms',
      columns: ['name', 'served', 'match_type'],
      where: { column: 'served', is: 'empty', not: true },
      limit: 5,
    });
    expect(served.rows[0]!.values[1]).toMatch(/^(exact|item) in /);
    const [caught] = (
      await table({
        level: 'terms',
        columns: ['name', 'ad_group'],
        where: { column: 'blocked', is: 'empty' },
        sort: 'spend',
        limit: 1,
      })
    ).rows;
    const blocked = async () =>
      (
        await table({
          level: 'terms',
          columns: ['blocked'],
          where: { column: 'name', is: 'equals', value: caught!.values[0] },
        })
      ).rows.map(({ values }) => values[0]);
    expect(await blocked()).not.toContain(`negative exact “${caught!.values[0]}” in ${caught!.values[1]}`);
    await sql`
      insert into negative (account_id, campaign_id, ad_group_id, ext_id, match_type, expression)
      select 1, campaign_id, ad_group_id, 'n-test', 'negative_exact', ${String(caught!.values[0])} from ad_group
      where name = ${String(caught!.values[1])}`;
    await sql`update account set data_version = data_version + 1`;
    expect(await blocked()).toContain(`negative exact “${caught!.values[0]}” in ${caught!.values[1]}`);
  });

  test('one row: its belief is the one of the table, its season adds up to its windows', async () => {
    for (const level of ['targets', 'terms']) {
      const [row] = (
        await table({ level, columns: ['over', 'clicks@d30', 'name'], sort: 'clicks@d30', limit: 1 })
      ).rows;
      const one = await callApi<{
        name: string;
        over: number;
        season: { day: string; clicks: number }[];
        windows: { days: number; clicks: number }[];
      }>(
        stack.url,
        'GET',
        `/api/1/explore/row?level=${level}&key=${row!.key}&from=${window.from}&to=${window.to}`,
      );
      expect([one.over, one.windows.find(({ days }) => days === 30)!.clicks, one.name]).toEqual(row!.values);
      expect(one.season.length).toBeGreaterThan(40);
    }
  });

  test('what cannot be asked is said with its place', async () => {
    await expect(table({ level: 'targets', columns: ['stars'] })).rejects.toThrow('no column "stars"');
    const where = {
      all: [
        { column: 'clicks', is: 'above', value: 3 },
        { column: 'name', is: 'matches', value: '(' },
      ],
    };
    await expect(table({ level: 'targets', where })).rejects.toThrow('"(" is no regular expression');
    await expect(
      table({ level: 'targets', where: { column: 'clicks', is: 'contains', value: 'a' } }),
    ).rejects.toThrow('Clicks cannot be tested with "contains"');
  });
});

describe('edits', () => {
  const wasteful = {
    all: [
      { column: 'acos', is: 'above', value: 0.5 },
      { column: 'spend', is: 'above', value: 5_000_000 },
    ],
  };

  test('a preview changes nothing and names what guards hold back', async () => {
    const request = {
      level: 'targets',
      where: wasteful,
      columns: [],
      edit: { field: 'bid', how: 'percent', value: -0.8 },
    };
    const shown = await preview(request);
    expect(shown.changed).toBeGreaterThan(5);
    expect(shown.held['largest step down']).toBe(shown.changed);
    for (const { old, next } of shown.rows.filter((row) => row.next !== null)) {
      expect(Number(next)).toBeGreaterThanOrEqual(Number(old) / 3 - 10_000);
    }
    const free = await preview({ ...request, keepGuards: false });
    const [row] = free.rows.filter(({ held, next }) => held.length === 0 && next !== null);
    expect(Number(row!.next)).toBeCloseTo(Number(row!.old) * 0.2, -4);
    const sheet = await openSheetOf<{ lines: unknown[] }>(stack.url);
    expect(sheet.lines).toEqual([]);
  });

  test('an edit of all that match goes onto the sheet as one group, and one undo takes it back', async () => {
    const request = {
      level: 'targets',
      where: wasteful,
      columns: [],
      edit: { field: 'bid', how: 'percent', value: -0.12 },
    };
    const shown = await preview(request);
    const done = await apply(request);
    expect(done.lines).toBe(shown.changed);
    const sheet = await openSheetOf<{
      lines: { old_value: string; new_value: string; reason: string; effect: { spend: number } }[];
    }>(stack.url);
    expect(sheet.lines).toHaveLength(shown.changed);
    expect(sheet.lines[0]!.reason).toBe('Changed by −12 % in Explore.');
    expect(sheet.lines.every(({ effect }) => effect.spend <= 0)).toBe(true);
    await callApi(stack.url, 'POST', '/api/1/sheet/undo', { groups: done.groups });
    expect((await openSheetOf<{ lines: unknown[] }>(stack.url)).lines).toEqual([]);
  });

  test('values pasted for single rows, each its own', async () => {
    const rows = (
      await table({
        level: 'targets',
        columns: ['bid'],
        where: { column: 'bid', is: 'above', value: 300_000 },
        limit: 3,
      })
    ).rows;
    const values = Object.fromEntries(
      rows.map(({ key, values: [bid] }, i) => [key, Number(bid) + (i + 2) * 20_000]),
    );
    const shown = await preview({
      level: 'targets',
      columns: [],
      keys: Object.keys(values),
      values,
      edit: { field: 'bid', how: 'set', value: 0 },
      keepGuards: false,
    });
    expect(Object.fromEntries(shown.rows.map(({ key, next }) => [key, Number(next)]))).toEqual(values);
  });

  test('status, budget, end date, default bid, modifier and negatives reach the marketplace, and one revert takes all of it back', async () => {
    const [campaign] = (
      await table({ level: 'campaigns', columns: ['daily_budget', 'name'], sort: 'spend', limit: 1 })
    ).rows;
    const inside = { level: 'campaigns', id: campaign!.key };
    const [target] = (
      await table({ level: 'targets', within: inside, columns: ['status'], sort: 'spend', limit: 1 })
    ).rows;
    const [place] = (
      await table({
        level: 'placements',
        within: inside,
        columns: ['modifier', 'placement'],
        sort: 'spend',
        limit: 1,
      })
    ).rows;
    const [term] = (
      await table({
        level: 'terms',
        within: inside,
        columns: ['name'],
        sort: 'clicks',
        where: {
          all: [
            { column: 'blocked', is: 'empty' },
            { column: 'orders', is: 'equals', value: 0 },
          ],
        },
        limit: 1,
      })
    ).rows;
    const before = await structureOf(stack.quayside);
    const endDate = addDays(window.to, 200);
    await apply({
      level: 'campaigns',
      columns: [],
      keys: [campaign!.key],
      edit: { field: 'daily_budget', how: 'percent', value: 0.5 },
    });
    await apply({
      level: 'targets',
      columns: [],
      keys: [target!.key],
      edit: { field: 'status', to: 'paused' },
    });
    await apply({
      level: 'placements',
      columns: [],
      keys: [place!.key],
      edit: { field: 'modifier', how: 'amount', value: 15 },
    });
    await apply({
      level: 'terms',
      columns: [],
      keys: [term!.key],
      edit: { field: 'negative', matchType: 'negative_exact', scope: 'ad_group' },
    });
    const [adGroup] = (
      await table({ level: 'ad_groups', within: inside, columns: ['default_bid'], sort: 'spend', limit: 1 })
    ).rows;
    await apply({
      level: 'ad_groups',
      columns: [],
      keys: [adGroup!.key],
      edit: { field: 'default_bid', how: 'amount', value: 20_000 },
    });
    await apply({
      level: 'campaigns',
      columns: [],
      keys: [campaign!.key],
      edit: { field: 'end_date', to: endDate },
    });
    const { jobId, sheetId } = await callApi<{ jobId: string; sheetId: number }>(
      stack.url,
      'POST',
      '/api/1/sheet/send',
      {},
    );
    const done = await finished(jobId);
    expect(done.result).toMatchObject({ applied: 6, refused: 0 });
    const after = await structureOf(stack.quayside);
    const only = (rows: typeof before, other: typeof before) => {
      const have = new Set(other.map((row) => JSON.stringify(row)));
      return rows.filter((row) => !have.has(JSON.stringify(row)));
    };
    const changed = only(after, before);
    // Budget and end date are two lines of one campaign.
    expect(changed).toHaveLength(5);
    expect(changed).toContainEqual(
      expect.objectContaining({
        entity: 'campaign',
        daily_budget: (Number(campaign!.values[0]) * 1.5) / 1e6,
        end_date: endDate,
      }),
    );
    expect(changed).toContainEqual(
      expect.objectContaining({
        entity: 'ad_group',
        default_bid: (Number(adGroup!.values[0]) + 20_000) / 1e6,
      }),
    );
    expect(changed).toContainEqual(expect.objectContaining({ entity: 'target', status: 'paused' }));
    expect(changed).toContainEqual(
      expect.objectContaining({ entity: 'placement_modifier', modifier: Number(place!.values[0]) + 15 }),
    );
    expect(changed).toContainEqual(
      expect.objectContaining({ entity: 'negative', expression: term!.values[0] }),
    );
    // Mowing knows the new values without fetching.
    const [known] = (
      await table({ level: 'campaigns', columns: ['daily_budget', 'end_date'], sort: 'spend', limit: 1 })
    ).rows;
    expect(known!.values).toEqual([Number(campaign!.values[0]) * 1.5, endDate]);
    const [group] = (
      await table({ level: 'ad_groups', within: inside, columns: ['default_bid'], sort: 'spend', limit: 1 })
    ).rows;
    expect(group!.values[0]).toBe(Number(adGroup!.values[0]) + 20_000);
    await callApi(stack.url, 'POST', `/api/1/ledger/${sheetId}/revert`, {});
    const back = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {});
    await finished(back.jobId);
    const left = only(await structureOf(stack.quayside), before);
    // The negative is archived: nothing at the marketplace is ever gone.
    expect(left.map(({ entity, status }) => [entity, status])).toEqual([['negative', 'archived']]);
  });

  async function finished(jobId: string) {
    for (;;) {
      const job = await callApi<{ state: string; result: unknown; message: string }>(
        stack.url,
        'GET',
        `/api/1/jobs/${jobId}`,
      );
      if (job.state === 'done') return job;
      if (job.state === 'failed') throw new Error(job.message);
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  }

  test('an edit that does not belong here, or changes nothing, is refused', async () => {
    await expect(
      preview({ level: 'terms', columns: [], edit: { field: 'bid', how: 'rest' } }),
    ).rejects.toThrow('edited at the level of targets');
    const passed = await preview({
      level: 'campaigns',
      columns: [],
      edit: { field: 'end_date', to: '2020-01-01' },
    });
    expect(passed.changed).toBe(0);
    expect(Object.keys(passed.problems)[0]).toMatch('2020-01-01 has passed');
    await expect(
      apply({ level: 'targets', columns: [], keys: [], edit: { field: 'bid', how: 'rest' } }),
    ).rejects.toThrow('changes none');
  });
});

describe('cross-tab', () => {
  interface Cross {
    rows: string[];
    columns: string[];
    cells: ({ spend: number; sales: number; clicks: number } | null)[][];
    rowTotals: { spend: number; sales: number }[];
    columnTotals: { spend: number; sales: number }[];
    total: { spend: number; sales: number };
  }
  const cross = (request: object) =>
    callApi<Cross>(stack.url, 'POST', '/api/1/explore/crosstab', { window, ...request });

  test('each cell is the sum of its facts, totals both ways', async () => {
    const answer = await cross({ rows: 'campaign', columns: 'automatic_mode' });
    const plain = await sql<{ campaign: string; mode: string; spend: number; sales: number }[]>`
      select c.name as campaign, case when t.kind = 'automatic' then t.expression else '(not automatic)' end as mode,
        sum(d.spend)::float8 as spend, sum(d.sales)::float8 as sales
      from target_day d join target t using (account_id, target_id) join ad_group g using (account_id, ad_group_id)
      join campaign c using (account_id, campaign_id) where d.day between ${window.from} and ${window.to}
      group by 1, 2 having sum(d.impressions) > 0`;
    for (const { campaign, mode, spend, sales } of plain) {
      const cell = answer.cells[answer.rows.indexOf(campaign)]![answer.columns.indexOf(mode)];
      expect(cell).toMatchObject({ spend, sales });
    }
    const sum = (list: { spend: number }[]) => list.reduce((total, { spend }) => total + spend, 0);
    expect(sum(answer.rowTotals)).toBe(answer.total.spend);
    expect(sum(answer.columnTotals)).toBe(answer.total.spend);
    expect(answer.columns).toContain('close terms');
  });

  test('weekdays in their order; placements by product; what cannot be cut is said', async () => {
    const days = await cross({ rows: 'weekday', columns: 'campaign_kind' });
    expect(days.rows).toEqual(['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']);
    const [sunday] = await sql`
      select sum(spend)::float8 as spend from target_day where day between ${window.from} and ${window.to} and extract(isodow from day) = 7`;
    expect(days.rowTotals[6]!.spend).toBe(sunday!.spend);
    const places = await cross({ rows: 'product', columns: 'placement' });
    expect(places.total.spend).toBe(days.total.spend);
    await expect(cross({ rows: 'match_type', columns: 'placement' })).rejects.toThrow(
      'cannot be cut by match type',
    );
  });
});
