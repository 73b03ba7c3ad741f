import type { QuietTerms } from '../../src/core/evidence/pooling.ts';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { judgeAccount } from '../../src/core/round/judge.ts';
import { inAdGroups, type TermRow } from '../../src/core/round/small-account.fixture.ts';
import type { TermInAdGroup } from '../../src/core/round/terms.ts';
import { addSibling, noSiblings } from '../../src/core/evidence/siblings.ts';
import { sumNames } from '../../src/core/account/store.ts';
import { dayWeights } from '../../src/core/metrics/weights.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { outOfStock } from '../../src/server/facts/evidence-days.ts';
import { loadJudgeInput, type Loaded } from '../../src/server/judging/input.ts';
import { makeDatabase } from '../support/stack.ts';

/** The sums that judging reads out of the account in memory, against every row read plainly and added up here. */

const window = { from: '2026-10-01', to: '2026-11-10' };
let sql: Database;
let loaded: Loaded;

beforeAll(async () => {
  sql = connect(await makeDatabase('mowing_seed'), 2);
  loaded = (await loadJudgeInput(sql, 1, window, true))!;
});
afterAll(() => sql.end());

interface Day {
  day: string;
  targetId: string;
  adGroupId: string;
  performance: boolean;
  term: string;
  impressions: number;
  clicks: number;
  spend: number;
  orders: number;
  units: number;
  sales: number;
}

/** Adds up term-days by target and term. */
async function plainTerms(): Promise<Map<string, TermRow & { adGroupId: string; performance: boolean }>> {
  const { input, today, settling } = loaded;
  const weights = new Map(
    dayWeights(input.evidence, input.window, today, settling.curve).map((weight) => [weight.day, weight]),
  );
  const days = await sql<Day[]>`
    select d.day, d.target_id::text as "targetId", t.ad_group_id::text as "adGroupId", m.text as term,
      (t.kind = 'item' or t.match_type is not distinct from 'exact') as performance, d.impressions, d.clicks,
      d.spend, d.orders, d.units, d.sales
    from term_day d join target t using (account_id, target_id) join term m using (account_id, term_id)
    where d.day between ${input.evidence.from} and ${input.evidence.to} and t.status <> 'archived'`;
  const out = new Set(
    (await outOfStock(sql, 1, input.evidence)).map(({ ad_group_id, day }) => `${ad_group_id} ${day}`),
  );
  const rows = new Map<string, TermRow & { adGroupId: string; performance: boolean }>();
  for (const one of days) {
    const { n, y, inside } = weights.get(one.day)!;
    const key = `${one.targetId}\t${one.term}`;
    const row = rows.get(key) ?? {
      targetId: one.targetId,
      adGroupId: one.adGroupId,
      performance: one.performance,
      term: one.term,
      ...{ impressions: 0, clicks: 0, spend: 0, orders: 0, units: 0, sales: 0, n: 0, y: 0 },
      ...{ seenClicks: 0, seenOrders: 0, seenSpend: 0, seenSales: 0, highestCpc: 0, laneCounts: null },
    };
    rows.set(key, row);
    // Days on which nothing could be sold are no evidence.
    if (!out.has(`${one.adGroupId} ${one.day}`)) {
      row.n += one.clicks * n;
      row.y += one.orders * y;
      row.seenClicks += one.clicks;
      row.seenOrders += one.orders;
      row.seenSpend += one.spend;
      row.seenSales += one.sales;
    }
    if (!inside) continue;
    for (const name of ['impressions', 'clicks', 'spend', 'orders', 'units', 'sales'] as const)
      row[name] += one[name];
    if (one.clicks > 0) row.highestCpc = Math.max(row.highestCpc, Math.floor(one.spend / one.clicks));
  }
  return rows;
}

/** A term as plain values: what stands in columns has no fields of its own. */
const told = ({ term, evidence, adGroup, target, caught, alsoFrom, laneCounts }: TermInAdGroup) => ({
  ...{ term, adGroupId: adGroup.adGroupId, target: target.targetId, alsoFrom, laneCounts },
  caught: caught.flatMap((one) => (one.clicks > 0 ? `${one.target.targetId} ${one.clicks}` : [])).sort(),
  sums: sumNames.map((name) => evidence[name]),
  seen: [evidence.seenClicks, evidence.seenOrders, evidence.seenSpend, evidence.seenSales],
  highestCpc: evidence.highestCpc,
});
const keyOf = ({ adGroup, term }: TermInAdGroup) => `${adGroup.adGroupId}\t${term}`;

test('every term that may become a finding is read with the sums of its days, to the last digit', async () => {
  const plain = inAdGroups([...(await plainTerms()).values()], loaded.input);
  const expected = new Map(plain.map((one) => [keyOf(one), one]));
  const { terms } = loaded.terms!;
  expect(terms.length).toBeGreaterThan(500);
  expect(terms.some(({ caught }) => caught.length > 1)).toBe(true);
  for (const one of terms) {
    const other = expected.get(keyOf(one))!;
    expect(told(one)).toEqual(told(other));
    expect(one.evidence.n).toBeCloseTo(other.evidence.n, 8);
    expect(one.evidence.y).toBeCloseTo(other.evidence.y, 8);
  }
});

test('folded terms say the same as all of them one by one: not one finding differs', async () => {
  const plain = [...(await plainTerms()).values()];
  const { input } = loaded;
  const folded = judgeAccount({ ...input, ...loaded.terms! }, 20_000);
  const terms = inAdGroups(plain, input);
  const all = judgeAccount({ ...input, terms, quietTerms: new Map() }, 20_000);
  expect(folded.counts).toEqual(all.counts);
  expect(folded.counts.terms).toBeGreaterThan(100);
  const said = ({ findings }: typeof all) =>
    findings
      .map((one) => [one.key, one.verdict, one.proposal.kind, Math.round(one.worth / 10)].join())
      .sort();
  expect(said(folded)).toEqual(said(all));
});

test('what is quiet adds up to what is left', async () => {
  const plain = await plainTerms();
  const { terms, quietTerms } = loaded.terms!;
  const open = new Set(terms.map(keyOf));
  for (const [key, { adGroupId, term }] of plain) if (open.has(`${adGroupId}\t${term}`)) plain.delete(key);
  const expected = new Map<string, QuietTerms & { seen: Map<string, TermRow> }>();
  for (const row of plain.values()) {
    const one = expected.get(row.adGroupId) ?? {
      terms: 0,
      siblings: noSiblings(),
      orders: 0,
      sales: 0,
      seen: new Map<string, TermRow>(),
    };
    expected.set(row.adGroupId, one);
    const known = one.seen.get(row.term) ?? { ...row, n: 0, y: 0, seenClicks: 0, seenOrders: 0 };
    for (const name of ['n', 'y', 'seenClicks', 'seenOrders'] as const) known[name] += row[name];
    one.seen.set(row.term, known);
    one.orders += row.seenOrders;
    one.sales += row.seenSales;
  }
  expect([...quietTerms.keys()].sort()).toEqual([...expected.keys()].sort());
  for (const [id, { seen, orders, sales }] of expected) {
    const siblings = noSiblings();
    for (const row of seen.values()) addSibling(siblings, row.n, row.y, row.seenClicks, row.seenOrders);
    const read = quietTerms.get(id)!;
    expect([read.terms, read.orders, read.sales]).toEqual([seen.size, orders, sales]);
    expect(read.siblings.n).toBeCloseTo(siblings.n, 6);
    expect(read.siblings.y).toBeCloseTo(siblings.y, 6);
    expect(new Map([...read.siblings.tally].sort())).toEqual(new Map([...siblings.tally].sort()));
  }
});

test('targets carry the sums of their days', async () => {
  const { input } = loaded;
  const rows = await sql<{ target_id: string; clicks: number; spend: number; sales: number }[]>`
    select target_id::text, sum(clicks)::int as clicks, sum(spend)::bigint as spend, sum(sales)::bigint as sales
    from target_day where day between ${input.window.from} and ${input.window.to} group by target_id`;
  const plain = new Map(rows.map((row) => [row.target_id, row]));
  expect(input.targets.length).toBeGreaterThan(1000);
  for (const target of input.targets) {
    const { clicks, spend, sales } = plain.get(target.targetId) ?? { clicks: 0, spend: 0, sales: 0 };
    expect([target.clicks, target.spend, target.sales]).toEqual([clicks, spend, sales]);
  }
});
