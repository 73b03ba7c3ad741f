import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { BudgetsAnswer, PlacementsAnswer } from '../../src/answers/spend.ts';
import { budgetKey } from '../../src/core/budgets/lines.ts';
import { placementKey } from '../../src/core/placements/lines.ts';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { elasticityOver } from '../../src/core/effect/response.ts';
import type { Model } from '../../src/core/effect/model.ts';
import type { Effect } from '../../src/core/effect/types.ts';
import { addDays } from '../../src/core/metrics/days.ts';
import { presentDays, presentWeight } from '../../src/core/metrics/weights.ts';
import type { Finding } from '../../src/core/round/types.ts';
import { normalise } from '../../src/core/text/normalise.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { outOfStock } from '../../src/server/facts/evidence-days.ts';
import { loadJudgeInput } from '../../src/server/judging/input.ts';
import { wordsIn } from '../../src/server/facts/phrases.queries.ts';
import { startStack, type Stack } from '../support/stack.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';

/** Judgement over three rounds: what is sent, what comes of it, and what the account learns. Against plain SQL. */

interface Round {
  window: { from: string; to: string };
  findings: Finding[];
  notices: string[];
}
interface Sums {
  clicks: number;
  spend: number;
  orders: number;
  sales: number;
}
interface Forecasts {
  count: number;
  inside: number;
  widening: number;
  kinds: { kind: string; count: number; said: Sums; seen: Sums }[];
  points: {
    lineId: number;
    sheetId: number;
    kind: string;
    weeks: number;
    toDay: string;
    said: Sums;
    seen: Sums;
  }[];
  checks: { day: string; rows: number; coverage: number; logScore: number; plainScore: number }[];
}

let stack: Stack;
let sql: Database;
const get = <T>(path: string) => callApi<T>(stack.url, 'GET', path);
const run = async (path: string, body: object) => {
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', path, body);
  await waitForJob(stack.url, jobId);
};
const accept = (round: Round, keys: string[], adjustments: object = {}) =>
  callApi(stack.url, 'POST', '/api/1/round/accept', { ...round.window, keys, adjustments });
const judgeInput = (round: Round) => loadJudgeInput(sql, 1, round.window, false);

beforeAll(async () => {
  stack = await startStack(true);
  sql = connect(stack.databaseUrl, 2);
  // Steering that was asked for with the goals has run by now: jobs take turns.
  await run('/api/1/fetch', {});
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

test('reading the round writes nothing: no theta, whatever the window', async () => {
  const kept = () =>
    sql`select (select count(*) from theta) as thetas, (select max(day)::text from theta) as day,
      (select goals_version from account) as version, (select count(*) from model) as models`;
  const before = await kept();
  for (const from of ['2026-10-01', '2026-11-01', '2026-11-10'])
    await get(`/api/1/round?from=${from}&to=2026-11-15`);
  await get('/api/1/goals');
  await get('/api/1/forecasts');
  expect(await kept()).toEqual(before);
});

test('a scope that starts far up is held at 1, and stands right once its goal comes down', async () => {
  interface Goals {
    goals: {
      key: string;
      targetAcos: number;
      theta: { value: number; reason: string; outcome: string } | null;
    }[];
  }
  const sku = 'TT-WGT6';
  const set = (targetAcos: number) =>
    callApi(stack.url, 'PUT', '/api/1/goals', {
      scope: 'product',
      key: sku,
      targetAcos,
      // Above its break-even: it is meant.
      confirmed: true,
    });
  const theta = async () => {
    for (;;) {
      const found = (await get<Goals>('/api/1/goals')).goals.find(({ key }) => key === sku)?.theta;
      if (found) return found;
    }
  };
  await set(0.75);
  expect(await theta()).toMatchObject({ value: 1, outcome: 'wants confirmation' });
  await set(0.25);
  const down = await theta();
  const rho = Number(/÷ ([\d.]+) paid per bid/.exec(down.reason)![1]);
  expect(down.value).toBeCloseTo(0.25 / rho, 2);
  await callApi(stack.url, 'DELETE', `/api/1/goals?scope=product&key=${sku}`, {});
});

test('a held finding takes nothing onto the sheet until it is confirmed beyond its guard', async () => {
  const round = await get<Round>('/api/1/round');
  const held = round.findings.find(
    ({ proposal }) => proposal.kind === 'bid' && proposal.held.includes('largest step up'),
  )!;
  const { to, beyond } = held.proposal as { to: number; beyond: number };
  expect(beyond).toBeGreaterThan(to);
  await accept(round, [held.key], { [held.key]: { beyond: true } });
  interface Line {
    line_id: number;
    group_key: string;
    new_value: string;
    effect: Effect;
  }
  const line = async () => (await openSheetOf<{ lines: Line[] }>(stack.url)).lines[0]!;
  const confirmed = await line();
  expect(Number(confirmed.new_value)).toBe(beyond);
  // Its effect is that of the bid that is sent, not of the one that was proposed; also once it is edited.
  expect(confirmed.effect.clicks).toBeGreaterThan(held.effect.clicks);
  await callApi(stack.url, 'POST', `/api/1/sheet/lines/${confirmed.line_id}`, { newValue: String(to) });
  const edited = await line();
  expect(Number(edited.new_value)).toBe(to);
  expect(edited.effect.clicks).toBeLessThan(confirmed.effect.clicks);
  expect(edited.effect.clicks / held.effect.clicks).toBeCloseTo(1, 0);
  await callApi(stack.url, 'POST', '/api/1/sheet/undo', { groups: [confirmed.group_key] });
  expect((await openSheetOf<{ lines: unknown[] }>(stack.url)).lines).toEqual([]);
});

describe('three rounds', () => {
  let last: Round;
  let phrase: string;

  test('are sent, a campaign-wide negative phrase among them', async () => {
    for (let week = 0; week < 3; week++) {
      last = await get<Round>('/api/1/round');
      const span = `from=${last.window.from}&to=${last.window.to}`;
      const placements = await get<PlacementsAnswer>(`/api/1/spend/placements?${span}`);
      const budgets = await get<BudgetsAnswer>(`/api/1/spend/budgets?${span}`);
      const moved = placements.campaigns.filter(({ isFinding }) => isFinding && week === 0).slice(0, 2);
      const lasting = budgets.campaigns
        .filter(({ isFinding, proposal }) => isFinding && week === 0 && proposal!.held.length === 0)
        .slice(0, 3);
      const whole = [
        ...moved.map(({ campaignId }) => placementKey(campaignId)),
        ...lasting.map(({ campaignId }) => budgetKey(campaignId)),
      ];
      // A bid's own finding stands for that of its budget: those campaigns are left to their budgets.
      const left = new Set(lasting.map(({ campaignId }) => campaignId));
      const negative = last.findings.find(
        ({ proposal, matchType, campaignId }) =>
          !left.has(campaignId) &&
          proposal.kind === 'negative' &&
          proposal.matchType !== 'negative_item' &&
          matchType !== 'exact',
      );
      if (week === 0) phrase = negative!.subject;
      const keys = last.findings
        .filter(({ proposal, campaignId }) => proposal.kind !== 'wait' && !left.has(campaignId))
        .map(({ key }) => key);
      await accept(
        last,
        [...keys.slice(0, 300), ...whole],
        week === 0 ? { [negative!.key]: { matchType: 'negative_phrase', scope: 'campaign' } } : {},
      );
      await run('/api/1/sheet/send', { clicksMeant: true });
      await run('/api/1/advance', { days: 7 });
    }
    last = await get<Round>('/api/1/round');
  }, 300_000);

  test('forecasts have their score on whole weeks: what was seen, redone from raw days', async () => {
    const ledger = await get<Forecasts>('/api/1/forecasts');
    expect(ledger.count).toBeGreaterThan(100);
    expect(ledger.kinds.map(({ kind }) => kind)).toEqual(expect.arrayContaining(['raise', 'cut']));
    expect(ledger.inside / ledger.count).toBeGreaterThan(0.6);
    // Scored last, by the model of the round before: the expected week moves as the market did, and by what the bids of
    // its product that moved otherwise gave it or took.
    const rows = await sql<
      {
        effect: Effect;
        said: Sums;
        seen: Sums;
        move: number;
        sku: string;
        on: string;
        weeks: number;
        own: number;
        after: number;
      }[]
    >`
      with product as (
        select g.campaign_id, min(p.sku) as sku from ad_group g join product_ad p using (account_id, ad_group_id) group by 1)
      select l.effect, f.said, f.seen, ln(l.new_value::float8 / l.old_value::float8) as move, pr.sku, s.sent_on::text as on, f.weeks,
        (select coalesce(sum(clicks), 0)::float8 from target_day d where d.target_id::text = l.object_id
          and d.day >= s.sent_on - 7 * f.weeks::int and d.day < s.sent_on) as own,
        (select coalesce(sum(clicks), 0)::float8 from target_day d where d.target_id::text = l.object_id
          and d.day > s.sent_on and d.day <= s.sent_on + 7 * f.weeks::int) as after
      from forecast f join line l using (account_id, line_id) join sheet s using (account_id, sheet_id)
      join product pr on pr.campaign_id::text = l.campaign_id
      where f.kind in ('raise', 'cut') and f.scored_on = (select max(scored_on) from forecast)`;
    const [model] = await sql<{ body: Model }[]>`
      select body from model where day < (select max(scored_on) from forecast) order by day desc limit 1`;
    const { response, substitution } = model!.body;
    const trends = new Map<string, number[]>();
    let apartest = 0;
    for (const { effect, said, seen, move, sku, on, weeks, own, after } of rows) {
      if (!effect.before || effect.before.clicks < 1) continue;
      // Terms that were isolated meanwhile are a matter of their own.
      if (Math.abs(said.clicks - effect.clicks) > 1e-9) continue;
      const { clicks, moved } = await productBefore(on, weeks, sku);
      const others = clicks > own ? (moved - own * move) / (clicks - own) : 0;
      const apart = (substitution.products[sku] ?? substitution.overlap) * (move - others);
      apartest = Math.max(apartest, Math.abs(apart));
      const told = Math.log((after / weeks - seen.clicks) / effect.before.clicks);
      const trend = told - (substitution.share - response.clicks) * apart;
      trends.set(`${on} ${weeks}`, [...(trends.get(`${on} ${weeks}`) ?? []), trend]);
    }
    const [most] = [...trends.values()].sort((a, b) => b.length - a.length);
    expect(most!.length).toBeGreaterThan(10);
    expect(apartest).toBeGreaterThan(0.05);
    for (const trend of most!) expect(trend).toBeCloseTo(most![0]!, 6);
    expect(Math.abs(most![0]!)).toBeLessThan(0.4);
  });

  test('placements and budgets are held against what their whole campaign did, and the lines beside them', async () => {
    const ledger = await get<Forecasts>('/api/1/forecasts');
    expect(ledger.kinds.map(({ kind }) => kind)).toEqual(expect.arrayContaining(['placements', 'budget']));
    const rows = await sql<
      {
        kind: string;
        line: number;
        seen: Sums;
        effect: Effect;
        said: Sums;
        on: string;
        weeks: number;
        before: number;
        after: number;
        others: number;
      }[]
    >`
      select f.kind, l.line_id as line, f.seen, l.effect, f.said, s.sent_on::text as on, f.weeks,
        (select coalesce(sum(clicks), 0)::float8 from target_day d join target t using (account_id, target_id)
          join ad_group g using (account_id, ad_group_id) where g.campaign_id::text = l.campaign_id
          and d.day >= s.sent_on - 28 and d.day < s.sent_on) as before,
        (select coalesce(sum(clicks), 0)::float8 from target_day d join target t using (account_id, target_id)
          join ad_group g using (account_id, ad_group_id) where g.campaign_id::text = l.campaign_id
          and d.day > s.sent_on and d.day <= s.sent_on + 7 * f.weeks::int) as after,
        (select coalesce(sum((o.effect ->> 'clicks')::float8), 0) from line o
          where o.sheet_id = l.sheet_id and o.campaign_id = l.campaign_id and o.line_id <> l.line_id
          and o.state = 'applied' and jsonb_typeof(o.effect) = 'object') as others
      from forecast f join line l using (account_id, line_id) join sheet s using (account_id, sheet_id)
      where f.kind in ('placements', 'budget')`;
    expect(rows.length).toBeGreaterThanOrEqual(3);
    // What nobody touched moved the same for all that stood as long.
    const trends = new Map<string, number>();
    for (const { seen, before, after, others, weeks, on } of rows) {
      const trend = (after / weeks - seen.clicks) / Math.max(0, before / 4 + others);
      const known = trends.get(`${on} ${weeks}`) ?? trend;
      expect(trend).toBeCloseTo(known, 6);
      expect(trend).toBeGreaterThan(0.6);
      expect(trend).toBeLessThan(1.6);
      trends.set(`${on} ${weeks}`, known);
    }
    expect(trends.size).toBeLessThan(rows.length);
    for (const { said, effect } of rows) expect(said.sales).toBeCloseTo(effect.sales, 6);
  });

  /** Clicks of a product's targets before a day, and these times ln of what was done to their bids on it. */
  const productBefore = async (on: string, weeks: number, sku: string) => {
    const [sums] = await sql<{ clicks: number; moved: number }[]>`
      with own as (
        select t.target_id, (select ln(b.bid::float8 / o.bid) from target_bid b
            cross join lateral (select bid from target_bid where account_id = b.account_id and target_id = b.target_id
              and day < b.day order by day desc limit 1) o
            where b.account_id = t.account_id and b.target_id = t.target_id and b.day = ${on}) as move
        from target t join ad_group g using (account_id, ad_group_id)
        where (select min(p.sku) from ad_group h join product_ad p using (account_id, ad_group_id)
          where h.campaign_id = g.campaign_id) = ${sku})
      select sum(d.clicks)::float8 as clicks, sum(d.clicks * coalesce(own.move, 0))::float8 as moved
      from own join target_day d using (target_id)
      where d.day >= ${on}::date - 7 * ${weeks}::int and d.day < ${on}::date`;
    return sums!;
  };

  test('each forecast is scored once, and anew only when another week has settled', async () => {
    const rows = () => sql`select line_id, weeks, scored_on::text, said, seen from forecast order by line_id`;
    const before = await rows();
    await run('/api/1/fetch', {});
    expect(await rows()).toEqual(before);
  });

  test('the model is checked out of sample, week by week', async () => {
    const { checks } = await get<Forecasts>('/api/1/forecasts');
    expect(checks.length).toBeGreaterThanOrEqual(3);
    for (const { rows, coverage, logScore, plainScore } of checks) {
      expect(rows).toBeGreaterThan(100);
      expect(coverage).toBeGreaterThan(0.7);
      expect(coverage).toBeLessThan(0.9);
      expect(logScore).toBeGreaterThan(plainScore);
    }
  });

  test('theta moves by what is expected, with F beside it', async () => {
    const rows = await sql<
      { theta: number; target_acos: number; expected_acos: number; in_force: number; outcome: string }[]
    >`
      select theta, target_acos, expected_acos, in_force, outcome from theta
      where scope = 'account' and expected_acos is not null order by day`;
    expect(rows.length).toBeGreaterThanOrEqual(2);
    rows.slice(1).forEach((row, i) => {
      if (row.outcome !== 'steered') return;
      const step = Math.min(1.3, Math.max(0.8, (row.target_acos / row.expected_acos) ** 0.8));
      expect(row.theta / rows[i]!.theta).toBeCloseTo(step, 6);
      expect(row.in_force).toBeGreaterThan(0);
    });
  });

  test('what a negative keeps away by now is no evidence of its target any more', async () => {
    const { input } = (await judgeInput(last))!;
    const out = new Set(
      (await outOfStock(sql, 1, input.evidence)).map(({ ad_group_id, day }) => `${ad_group_id} ${day}`),
    );
    const days = async (table: 'all' | 'blocked') =>
      sql<{ target_id: string; ad_group_id: string; day: string; clicks: number }[]>`
        select d.target_id::text, t.ad_group_id::text, d.day::text, d.clicks
        from ${table === 'all' ? sql`target_day d` : sql`term_day d join term m using (account_id, term_id)`}
        join target t using (account_id, target_id) join ad_group g using (account_id, ad_group_id)
        where d.day between ${input.evidence.from} and ${input.evidence.to} and ${
          table === 'all'
            ? sql`true`
            : sql`exists (select 1 from negative n where n.campaign_id = g.campaign_id and n.status = 'enabled'
                and (n.ad_group_id is null or n.ad_group_id = g.ad_group_id)
                and n.match_type in ('negative_exact', 'negative_item') and lower(n.expression) = lower(m.text))`
        }`;
    const clicks = new Map<string, number>();
    const blocked = new Map<string, number>();
    for (const [rows, into] of [
      [await days('all'), clicks],
      [await days('blocked'), blocked],
    ] as const)
      for (const row of rows)
        if (!out.has(`${row.ad_group_id} ${row.day}`))
          into.set(row.target_id, (into.get(row.target_id) ?? 0) + row.clicks);
    // Targets that the phrase touches too are left aside: phrases are matched, not looked up.
    const words = phrase.split(' ');
    const touched = input.targets.filter(
      ({ targetId, expression }) =>
        (blocked.get(targetId) ?? 0) > 0 && !words.some((word) => expression.includes(word)),
    );
    expect(touched.length).toBeGreaterThan(10);
    const same = touched.filter(
      ({ targetId, seenClicks }) => seenClicks === clicks.get(targetId)! - blocked.get(targetId)!,
    );
    expect(same.length / touched.length).toBeGreaterThan(0.9);
    for (const { targetId, seenClicks } of touched) expect(seenClicks).toBeLessThan(clicks.get(targetId)!);
  });

  test('days at another bid count as the response says of the way from there to the present bid', async () => {
    const { input, today } = (await judgeInput(last))!;
    const { response } = input;
    const bids = await sql<{ target_id: string; day: string; bid: number }[]>`
      select target_id::text, day::text, bid::float8 as bid from target_bid where bid is not null order by target_id, day`;
    const told = new Set(
      (await sql<{ day: string }[]>`select distinct day::text from target_day`).map(({ day }) => day),
    );
    const days = Array.from({ length: presentDays }, (_, age) => ({ age, day: addDays(today, -age) })).filter(
      ({ day }) => told.has(day),
    );
    let moved = 0;
    for (const { targetId, bid, present } of input.targets) {
      const own = bids.filter(({ target_id }) => target_id === targetId);
      if (bid === null || own.length < 2) continue;
      moved++;
      const inForce = (day: string) => (own.filter((one) => one.day < day).at(-1) ?? own[0]!).bid;
      const expected = days.reduce((sum, { age, day }) => {
        const ratio = bid / inForce(day);
        return sum + presentWeight(age) * ratio ** -elasticityOver(response, ratio);
      }, 0);
      expect(present.days / expected).toBeCloseTo(1, 6);
    }
    expect(moved).toBeGreaterThan(50);
  });

  test('a campaign-wide phrase shows in the ledger what it kept away', async () => {
    const sheets = await get<{ sheets: { sheet_id: number }[] }>('/api/1/ledger');
    const details = await Promise.all(
      sheets.sheets.map(({ sheet_id }) =>
        sentSheetOf<{
          lines: {
            entity: string;
            match_type: string;
            expression: string;
            before: Sums | null;
            after: Sums | null;
          }[];
        }>(stack.url, sheet_id),
      ),
    );
    const line = details
      .flatMap(({ lines }) => lines)
      .find(({ match_type, expression }) => match_type === 'negative_phrase' && expression === phrase)!;
    expect(line.before!.clicks).toBeGreaterThan(0);
    expect(line.after!.clicks).toBe(0);
  });
});

test('SQL reads the words of a text as the matcher does', async () => {
  for (const text of [
    'Dry-fly  rod, 5l',
    'kid’s T-shirt – "large"',
    "o'clock wall_clock",
    'crème brûlée 2€/100g',
    'थर्मस बोतल',
    'ขวดน้ำ 1L!',
    'ﬁne ｆｌａｓｋ',
    '…',
  ]) {
    const [row] = await sql<
      { words: string }[]
    >`select ${wordsIn(sql, 'x.text')} as words from (select ${text}::text) as x (text)`;
    expect(row!.words, text).toBe(normalise(text));
  }
});

test('days on which a product was out of stock are no evidence of its targets', async () => {
  const round = await get<Round>('/api/1/round');
  const before = (await judgeInput(round))!;
  const outBefore = await outOfStock(sql, 1, before.input.evidence);
  const [top] = await sql<{ sku: string }[]>`
    select sku from product_ad group by sku order by count(*) desc limit 1`;
  const { sku } = top!;
  const days = ['2026-11-02', '2026-11-03', '2026-11-04'];
  for (const day of days)
    await sql`insert into product_stock (account_id, sku, day, stock) values (1, ${sku}, ${day}, 0)
      on conflict (account_id, sku, day) do update set stock = 0`;
  const after = (await judgeInput(round))!;
  const known = new Set(outBefore.map(({ ad_group_id, day }) => `${ad_group_id} ${day}`));
  const fresh = (await outOfStock(sql, 1, after.input.evidence)).filter(
    ({ ad_group_id, day }) => !known.has(`${ad_group_id} ${day}`),
  );
  expect(fresh.length).toBeGreaterThan(0);
  const byId = new Map(after.input.targets.map((row) => [row.targetId, row]));
  let lost = 0;
  for (const row of before.input.targets) {
    const now = byId.get(row.targetId)!;
    const gone = fresh
      .filter(({ ad_group_id }) => String(ad_group_id) === row.adGroupId)
      .map(({ day }) => day);
    if (gone.length === 0) expect(now.seenClicks).toBe(row.seenClicks);
    lost += row.seenClicks - now.seenClicks;
    // Figures of the window stay what they were.
    expect([now.clicks, now.spend, now.sales]).toEqual([row.clicks, row.spend, row.sales]);
  }
  expect(lost).toBeGreaterThan(0);
});
