import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { startStack, type Stack } from '../support/stack.ts';

let full: Stack;
let empty: Stack;
let [from, to]: Database[] = [];
beforeAll(async () => {
  [full, empty] = await Promise.all([startStack(true), startStack(false)]);
  [from, to] = [connect(full.databaseUrl, 2), connect(empty.databaseUrl, 2)];
});
afterAll(async () => {
  await Promise.all([from?.end(), to?.end()]);
  await Promise.all([full.stop(), empty.stop()]);
});

const upload = async (url: string, name: string, body: BodyInit) => {
  const response = await fetch(`${url}/api/1/files?name=${name}`, { method: 'POST', body });
  return (await response.json()) as {
    format: string;
    uploadId: string;
    detail?: string;
    resources: { name: string }[];
  };
};

const figures = `sum(impressions)::float8 as impressions, sum(clicks)::float8 as clicks, sum(spend)::float8 as spend,
  sum(orders)::float8 as orders, sum(units)::float8 as units, sum(sales)::float8 as sales, count(*)::int as rows`;
const path = `join target t using (account_id, target_id) join ad_group g using (account_id, ad_group_id)
  join campaign c using (account_id, campaign_id)`;

/** Everything that sums can be asked of, in words that do not depend on our own numbers. */
const questions: Record<string, string> = {
  targets: `select day, c.name as campaign, g.name as ad_group, t.kind, t.match_type, t.expression, ${figures}
    from target_day ${path} group by 1, 2, 3, 4, 5, 6`,
  terms: `select day, c.name as campaign, t.expression, t.match_type, m.text, ${figures}
    from term_day ${path} join term m using (account_id, term_id) group by 1, 2, 3, 4, 5`,
  placements: `select day, c.name as campaign, placement, ${figures}
    from placement_day join campaign c using (account_id, campaign_id) group by 1, 2, 3`,
  hours: `select day, hour, c.name as campaign, sum(minutes_in_budget)::int as minutes, ${figures}
    from campaign_hour join campaign c using (account_id, campaign_id) group by 1, 2, 3`,
  products: `select day, sku, sessions, total_orders, total_units, total_sales::float8 as total_sales from product_day`,
  ranks: `select day, sku, keyword, organic_rank, sponsored_rank, search_volume from rank_day`,
  summaries: `select s.kind, first_day, last_day, t.expression, ${figures} from summary s
    left join target t using (account_id, target_id) group by 1, 2, 3, 4`,
  stock: `select sku, item_code, title, brand, category, price, unit_cost, fee_rate, fee_fixed, shipping, refund_rate,
    rating, stock from product`,
  campaigns: `select ext_id, name, kind, daily_budget, strategy, start_date, end_date, status, budget_group from campaign`,
  groups: `select ext_id, name, daily_budget from budget_group`,
  modifiers: `select c.ext_id, placement, modifier from placement_modifier join campaign c using (account_id, campaign_id)`,
  adGroups: `select g.ext_id, c.ext_id as campaign, g.name, default_bid, g.status
    from ad_group g join campaign c using (account_id, campaign_id)`,
  ads: `select g.ext_id, sku, a.status from product_ad a join ad_group g using (account_id, ad_group_id)`,
  bids: `select t.ext_id, g.ext_id as ad_group, t.kind, match_type, expression, bid, t.status
    from target t join ad_group g using (account_id, ad_group_id)`,
  negatives: `select n.ext_id, c.ext_id as campaign, g.ext_id as ad_group, match_type, expression, n.status
    from negative n join campaign c using (account_id, campaign_id) left join ad_group g using (account_id, ad_group_id)`,
  goals: `select o.scope, coalesce(c.ext_id, o.key) as key, target_acos, bid_floor, bid_ceiling
    from goal o left join campaign c on o.scope = 'campaign' and c.campaign_id::text = o.key`,
  lines: `select s.state as sheet, s.sent_on, l.action, l.entity, l.field, l.old_value, l.new_value, l.match_type,
    l.expression, l.reason, l.proposed_by, l.state, l.message
    from line l join sheet s using (account_id, sheet_id) where l.state <> 'removed'`,
};

const answers = async (sql: Database, question: string): Promise<string[]> =>
  (await sql.unsafe(question)).map((row) => JSON.stringify(row)).sort();

describe('a data package', () => {
  test('of a whole account loads into an empty one with nothing lost', async () => {
    // Something of every kind that the demo has not by itself: goals, a sheet on its way, ranks, a summary.
    await callApi(full.url, 'POST', '/api/1/explore/edit', {
      level: 'targets',
      where: { column: 'clicks', is: 'at_least', value: 60 },
      edit: { field: 'bid', how: 'percent', value: -0.1 },
    });
    const [campaign] = await from!`select campaign_id::text as key from campaign order by 1 limit 1`;
    await callApi(full.url, 'PUT', '/api/1/goals', {
      scope: 'campaign',
      key: campaign!.key,
      targetAcos: 0.22,
      bidFloor: 100_000,
      bidCeiling: null,
    });
    for (const text of [
      'date,sku,keyword,organic_rank,sponsored_rank,search_volume\n2026-11-03,AL-4,airlock lids,7,,900\n',
      'start_date,end_date,campaign,ad_group,target,match_type,impressions,clicks,spend,orders,sales\n2026-06-01,2026-06-30,Old,Old,lid set,exact,900,60,30.25,3,56.70\n',
    ]) {
      const { uploadId } = await upload(full.url, 'more.csv', text);
      const kind = text.startsWith('date') ? 'ranks-daily' : 'targets-daily';
      const { jobId } = await callApi<{ jobId: string }>(full.url, 'POST', '/api/1/imports', {
        uploadId,
        kind,
      });
      await waitForJob(full.url, jobId);
    }
    const zip = await fetch(`${full.url}/api/1/package`);
    expect(zip.headers.get('content-disposition')).toContain('.zip');
    const preview = await upload(empty.url, 'account.zip', await zip.blob());
    expect(preview.format).toBe('package');
    expect(preview.resources).toHaveLength(13);
    const { jobId } = await callApi<{ jobId: string }>(empty.url, 'POST', '/api/1/imports/package', {
      uploadId: preview.uploadId,
    });
    const { result } = await waitForJob(empty.url, jobId);
    for (const part of (result as { parts: { name: string; rowsRead: number; rowsLoaded: number }[] }).parts)
      expect(part.rowsLoaded, part.name).toBe(part.rowsRead);
    for (const [name, question] of Object.entries(questions)) {
      const wanted = await answers(from!, question);
      expect(wanted.length, name).toBeGreaterThan(0);
      expect(await answers(to!, question), name).toEqual(wanted);
    }
    // And what is made of it: the same totals in the table.
    const ask = (url: string) =>
      callApi<{ totals: unknown }>(url, 'POST', '/api/1/explore/table', {
        level: 'terms',
        columns: ['clicks', 'spend', 'orders', 'sales', 'acos'],
        window: { from: '2026-09-20', to: '2026-11-10' },
      });
    expect((await ask(empty.url)).totals).toEqual((await ask(full.url)).totals);
  });

  test('whoever leaves in the middle of it leaves nothing behind', async () => {
    for (let i = 0; i < 12; i++) {
      const leaving = new AbortController();
      const answer = await fetch(`${full.url}/api/1/package`, { signal: leaving.signal });
      await answer.body!.getReader().read();
      leaving.abort();
    }
    const held = () => from!`
      select 1 from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()
        and (state like 'idle in%' or (state = 'active' and query ilike 'copy%'))`;
    await expect.poll(async () => (await held()).length, { timeout: 60_000 }).toBe(0);
    expect((await fetch(`${full.url}/api/1/season`)).status).toBe(200);
  });

  test('twice is once', async () => {
    const before = await answers(to!, questions.terms!);
    const preview = await upload(
      empty.url,
      'account.zip',
      await (await fetch(`${full.url}/api/1/package`)).blob(),
    );
    const { jobId } = await callApi<{ jobId: string }>(empty.url, 'POST', '/api/1/imports/package', {
      uploadId: preview.uploadId,
    });
    await waitForJob(empty.url, jobId);
    expect(await answers(to!, questions.terms!)).toEqual(before);
    expect(await answers(to!, questions.lines!)).toEqual(await answers(from!, questions.lines!));
  });

  test('a zip that is none is told', async () => {
    const answer = await upload(empty.url, 'x.zip', 'PK\u0003\u0004 nothing of the kind');
    expect(answer.detail).toContain('is it whole?');
  });
});
