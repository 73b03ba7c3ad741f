import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import postgres from 'postgres';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type { QueueAnswer, WiderAnswer } from '../../src/answers/round.ts';
import type { OpenSheet } from '../../src/answers/changes.ts';
import type { PlacementsAnswer } from '../../src/answers/spend.ts';
import { addDays, daysBetween } from '../../src/core/metrics/days.ts';
import { dayWeights } from '../../src/core/metrics/weights.ts';
import { isHeldWhole } from '../../src/core/round/queue.ts';
import { placementKey } from '../../src/core/placements/lines.ts';
import type { PlacedRow, PlacementFigures } from '../../src/core/placements/findings.ts';
import { connect } from '../../src/server/db/connection.ts';
import { placementFigures } from '../../src/server/facts/placements.queries.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';
import { callQuayside, startStack, structureOf, type Stack } from '../support/stack.ts';

interface DayRow {
  id: string;
  placement: string;
  day: string;
  impressions: number;
  clicks: number;
  spend: number;
  orders: number;
  units: number;
  sales: number;
}

/** Placements: judged from days, modifiers and bids together to the marketplace and back. */

let stack: Stack;
let sql: postgres.Sql;
let window: { from: string; to: string };
beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1 });
  const { window: judged } = await call<QueueAnswer>('GET', 'round/queue');
  window = judged!;
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/1/${path}`, body);
const placements = () =>
  call<PlacementsAnswer>('GET', `spend/placements?from=${window.from}&to=${window.to}`);
const findings = async (): Promise<PlacedRow[]> =>
  (await placements()).campaigns.filter(({ isFinding }) => isFinding);
const accept = (keys: string[], adjustments: Record<string, object> = {}) =>
  call<{ groups: string[]; lines: number }>('POST', 'round/accept', { ...window, keys, adjustments });
const empty = async () => {
  const { lines } = await openSheetOf(stack.url);
  if (lines.length > 0) await call('POST', 'sheet/lines', { lineIds: lines.map(({ line_id: id }) => id) });
};
const handSet = (body: object) => call<{ lines: number }>('POST', 'spend/placements', { ...window, ...body });

describe('what placements had', () => {
  test('evidence, window and what came after a change: recomputed from the raw days', async () => {
    const own = connect(stack.databaseUrl, 1);
    try {
      const evidence = { from: addDays(window.to, -89), to: window.to };
      const curve = Array.from({ length: 15 }, (_, age) => Math.min(1, (age + 3) / 12));
      const weights = dayWeights(evidence, window, addDays(window.to, 3), curve);
      const weightOn = new Map(weights.map((weight) => [weight.day, weight]));
      // Younger days were known by a part on that night.
      const known = (day: string) => (day > addDays(window.to, -5) ? 0.6 : 1);
      const days = await own<DayRow[]>`
        select campaign_id::text as id, placement, day, impressions, clicks, spend, orders, units, sales
        from placement_day where account_id = 1 and day between ${evidence.from} and ${evidence.to}`;
      const ids = [...new Set(days.map(({ id }) => id))].sort();
      // Changed before the window, within it, on its last day, and never.
      const changedOn = new Map([
        [ids[0]!, addDays(window.from, -9)],
        [ids[1]!, addDays(window.from, 11)],
        [ids[2]!, addDays(window.to, -1)],
        [ids[3]!, window.to],
      ]);
      const found = await placementFigures(own, 1, window, weights, changedOn, known);
      expect([...found.keys()].sort()).toEqual(ids);
      for (const [id, placements] of found)
        for (const one of placements) {
          const rows = days.filter((row) => row.id === id && row.placement === one.placement);
          const sum = (of: (row: DayRow) => number, list = rows) =>
            list.reduce((all, row) => all + of(row), 0);
          const inside = rows.filter(({ day }) => day >= window.from);
          const changed = changedOn.get(id);
          const first =
            changed === undefined || changed >= window.to || changed < window.from
              ? window.from
              : addDays(changed, 1);
          const present = inside.filter(({ day }) => day >= first);
          const expected = {
            n: sum((row) => row.clicks * weightOn.get(row.day)!.n),
            y: sum((row) => row.orders * weightOn.get(row.day)!.y * known(row.day)),
            seenClicks: sum((row) => row.clicks),
            seenOrders: sum((row) => row.orders * known(row.day)),
            impressions: sum((row) => row.impressions, inside),
            clicks: sum((row) => row.clicks, inside),
            spend: sum((row) => row.spend, inside),
            orders: sum((row) => row.orders * known(row.day), inside),
            units: sum((row) => row.units * known(row.day), inside),
            sales: sum((row) => row.sales * known(row.day), inside),
            presentClicks: sum((row) => row.clicks, present),
            presentSpend: sum((row) => row.spend, present),
            presentDays: inside.length === 0 ? one.present.days : daysBetween(first, window.to) + 1,
          };
          const told = {
            n: one.n,
            y: one.y,
            seenClicks: one.seenClicks,
            seenOrders: one.seenOrders,
            ...one.sums,
            presentClicks: one.present.clicks,
            presentSpend: one.present.spend,
            presentDays: one.present.days,
          };
          for (const name of Object.keys(expected) as (keyof typeof expected)[])
            expect(told[name], `${id} ${one.placement} ${name}`).toBeCloseTo(expected[name], 4);
        }
    } finally {
      await own.end();
    }
  });

  test('a window longer than the evidence is told by all its days, evidence by its own', async () => {
    const own = connect(stack.databaseUrl, 1);
    try {
      const evidence = { from: addDays(window.to, -13), to: window.to };
      const weights = dayWeights(evidence, evidence, addDays(window.to, 3), [1]);
      const found = await placementFigures(own, 1, window, weights, new Map());
      const [{ clicks, orders, seen }] = await own<[{ clicks: number; orders: number; seen: number }]>`
        select sum(clicks)::int as clicks, sum(orders)::int as orders,
          (sum(orders) filter (where day >= ${evidence.from}))::int as seen
        from placement_day where account_id = 1 and day between ${window.from} and ${window.to}`;
      const sum = (of: (one: PlacementFigures) => number) =>
        [...found.values()].flat().reduce((all, one) => all + of(one), 0);
      expect(seen).toBeLessThan(orders);
      const told = [
        sum((one) => one.sums.clicks),
        sum((one) => one.sums.orders),
        sum((one) => one.seenOrders),
      ];
      expect(told).toEqual([clicks, orders, seen]);
    } finally {
      await own.end();
    }
  });

  test('of a campaign whose strategy was changed, what came since is told beside the window', async () => {
    const [{ campaignId: id, strategy, sinceStrategy: before }, { campaignId: late }] = (await placements())
      .campaigns as [PlacedRow, PlacedRow];
    expect(before).toBeNull();
    const changed = addDays(window.from, 20);
    const told = () => sql`update account set data_version = data_version + 1 where account_id = 1`;
    await sql`insert into outside_change (account_id, day, entity, object_id, field, campaign_id, old_value, new_value)
      values (1, ${changed}, 'campaign', ${id}, 'strategy', ${id}, 'fixed', ${strategy}),
        (1, ${addDays(window.to, 2)}, 'campaign', ${late}, 'strategy', ${late}, 'fixed', 'down_only')`;
    await told();
    const { campaigns } = await placements();
    const since = campaigns.find(({ campaignId }) => campaignId === id)!.sinceStrategy!;
    const rows = await sql<{ placement: string; clicks: number; spend: number; sales: number }[]>`
      select placement, sum(clicks)::int as clicks, sum(spend)::float8 as spend, sum(sales)::float8 as sales
      from placement_day where account_id = 1 and campaign_id = ${id} and day > ${changed} and day <= ${window.to}
      group by placement`;
    expect(rows.length).toBeGreaterThan(1);
    expect(since.day).toBe(changed);
    expect(Object.keys(since.sums).sort()).toEqual(rows.map(({ placement }) => placement).sort());
    for (const { placement, ...sums } of rows) expect(since.sums[placement]).toMatchObject(sums);
    // Changed after the last of these days: none of them was under the strategy that it has.
    expect(campaigns.find(({ campaignId }) => campaignId === late)!.sinceStrategy!.sums).toEqual({});
    expect(campaigns.filter((row) => row.sinceStrategy !== null)).toHaveLength(2);
    await sql`delete from outside_change where account_id = 1 and field = 'strategy' and object_id in (${id}, ${late})`;
    await told();
  });

  test('sums of the window, and evidence, are those of the days', async () => {
    const { campaigns } = await placements();
    expect(campaigns.length).toBeGreaterThan(20);
    const rows = await sql<{ id: string; placement: string; clicks: number; spend: number; seen: number }[]>`
      select campaign_id::text as id, placement,
        coalesce(sum(clicks) filter (where day between ${window.from} and ${window.to}), 0)::int as clicks,
        coalesce(sum(spend) filter (where day between ${window.from} and ${window.to}), 0)::float8 as spend,
        sum(clicks)::int as seen
      from placement_day where account_id = 1 and day > ${window.to}::date - 90 and day <= ${window.to} group by 1, 2`;
    const days = new Map(rows.map((row) => [`${row.id} ${row.placement}`, row]));
    for (const { campaignId, placements: own } of campaigns)
      for (const { placement, sums, seenClicks, share } of own) {
        const row = days.get(`${campaignId} ${placement}`)!;
        expect([sums.clicks, sums.spend, seenClicks]).toEqual([row.clicks, row.spend, row.seen]);
        expect(share).toBeGreaterThanOrEqual(0);
      }
  });

  test('Explore says the same of the most that one click may cost', async () => {
    const { campaigns } = await placements();
    const { rows } = await call<{ rows: { values: (string | number | null)[] }[] }>('POST', 'explore/table', {
      level: 'placements',
      columns: ['campaign', 'placement', 'most_of_click'],
      sort: 'campaign',
      limit: 1000,
      window,
    });
    const said = new Map(
      rows.map(({ values: [campaign, placement, most] }) => [`${campaign} ${placement}`, most]),
    );
    // Where one kind of target reaches all placements: elsewhere Spend knows which do not reach it.
    const plain = campaigns.filter(({ streams }) => streams.length === 1);
    expect(plain.length).toBeGreaterThan(10);
    for (const { name, placements: own } of plain)
      for (const { placement, most } of own) expect(said.get(`${name} ${placement}`)).toBe(most);
  });

  test('findings stand in Round with their worth', async () => {
    const { findings: rows } = await call<WiderAnswer>(
      'GET',
      `round/wider?from=${window.from}&to=${window.to}`,
    );
    const found = await findings();
    expect(found.length).toBeGreaterThan(3);
    const shown = rows.filter(({ queue }) => queue === 'placements');
    expect(shown.map(({ key }) => key).sort()).toEqual(
      found.map(({ campaignId }) => placementKey(campaignId)).sort(),
    );
    for (const { worth } of shown) expect(worth).toBeGreaterThan(0);
  });
});

describe('modifiers and bids', () => {
  test('one finding is one thing on the sheet: every bid times the factor, removed as a whole', async () => {
    const [one] = await findings();
    const { lines } = await accept([placementKey(one!.campaignId)]);
    const sheet = await openSheetOf(stack.url);
    expect(sheet.lines).toHaveLength(lines);
    expect(lines).toBe(one!.lines);
    const { bids, modifiers } = one!.proposal!;
    const betas = bids.map(({ beta }) => beta);
    for (const line of sheet.lines) {
      expect(line.harvest).toBe(true);
      if (line.entity === 'placement_modifier')
        expect(Number(line.new_value)).toBe(modifiers.find(({ placement }) => placement === line.field)!.to);
      else
        expect(
          Math.min(...betas.map((beta) => Math.abs(Number(line.new_value) - Number(line.old_value) * beta))),
        ).toBeLessThanOrEqual(5001);
    }
    expect(sheet.lines.filter(({ effect }) => effect !== null)).toHaveLength(1);
    const { onSheet } = await placements();
    expect(onSheet).toEqual([one!.campaignId]);
    await call('POST', 'sheet/lines', { lineIds: [sheet.lines[0]!.line_id] });
    expect((await openSheetOf(stack.url)).lines).toHaveLength(0);
  });

  test('a bid with a finding of its own gets both; alone, one says that the other covers it', async () => {
    const round = await call<QueueAnswer>('GET', `round/queue?from=${window.from}&to=${window.to}`);
    const found = await findings();
    const both = found
      .map((row) => ({
        row,
        bid: round.findings.find(
          ({ campaignId, proposal, queue }) =>
            queue === 'targets' && proposal.kind === 'bid' && campaignId === row.campaignId,
        )!,
      }))
      .find(({ bid }) => bid)!;
    const key = placementKey(both.row.campaignId);
    await accept([key, both.bid.key]);
    const { lines } = await openSheetOf(stack.url);
    const own = lines.filter(
      ({ entity, expression, ad_group: name }) =>
        entity === 'target' &&
        expression === both.bid.subject &&
        name === round.adGroups[both.bid.adGroupId]!.name,
    );
    expect(own).toHaveLength(1);
    expect(lines.filter(({ conflict }) => conflict)).toEqual([]);
    const proposed = (both.bid.proposal as { to: number }).to;
    const [{ beta } = { beta: 1 }] = both.row.proposal!.bids;
    expect(Math.abs(Number(own[0]!.new_value) - proposed * beta)).toBeLessThanOrEqual(
      0.06 * proposed + 10_000,
    );
    expect(Number(own[0]!.new_value)).not.toBe(proposed);
    await empty();
    await accept([key]);
    const after = await call<QueueAnswer>('GET', `round/queue?from=${window.from}&to=${window.to}`);
    expect(after.covered[both.bid.key]).toBe('the placements of its campaign');
    await empty();
    await accept([both.bid.key]);
    const wider = await call<WiderAnswer>('GET', `round/wider?from=${window.from}&to=${window.to}`);
    expect(wider.covered[key]).toBe('bids of its targets');
    await empty();
  });

  test('sent, they stand at the marketplace; a cooldown holds the next; reverted, all is as it was', async () => {
    const [one] = await findings();
    const before = await structureOf(stack.quayside);
    const { lines } = await accept([placementKey(one!.campaignId)]);
    const { sheetId } = await openSheetOf(stack.url);
    const { jobId } = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, jobId);
    const sent = await sentSheetOf(stack.url, sheetId);
    expect(sent.lines.filter(({ state }) => state === 'applied')).toHaveLength(lines);
    const [{ ext }] = await sql<[{ ext: string }]>`
      select ext_id as ext from campaign where account_id = 1 and campaign_id = ${one!.campaignId}`;
    const modifiersOf = (rows: Awaited<ReturnType<typeof structureOf>>) =>
      Object.fromEntries(
        rows
          .filter((row) => row.entity === 'placement_modifier' && row.campaign_id === ext)
          .map((row) => [row.placement, Number(row.modifier)]),
      );
    const now = modifiersOf(await structureOf(stack.quayside));
    for (const { placement, to } of one!.proposal!.modifiers) expect(now[placement]).toBe(to);
    const held = (await placements()).campaigns.find(({ campaignId }) => campaignId === one!.campaignId)!;
    expect(held.isFinding).toBe(false);
    for (const { placement, modifier } of held.placements) expect(modifier).toBe(now[placement]);
    await call('POST', `ledger/${sheetId}/revert`, { lineIds: [sent.lines[0]!.line_id] });
    const back = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, back.jobId);
    const after = await structureOf(stack.quayside);
    expect(modifiersOf(after)).toEqual(modifiersOf(before));
    const bids = (rows: typeof before) =>
      rows
        .filter(({ entity }) => entity === 'target')
        .map(({ target_id: id, bid }) => `${id} ${bid}`)
        .sort();
    expect(bids(after)).toEqual(bids(before));

    // What was proposed is wanted again, and held: it stands in Round as such, and is only taken beyond its guard.
    const key = placementKey(one!.campaignId);
    const { findings: rows } = await call<WiderAnswer>(
      'GET',
      `round/wider?from=${window.from}&to=${window.to}`,
    );
    const cooling = rows.find((row) => row.key === key)!;
    expect(cooling.proposal).toMatchObject({
      kind: 'placements',
      held: expect.arrayContaining(['cooldown']),
    });
    expect(isHeldWhole(cooling)).toBe(true);
    await expect(accept([key])).rejects.toThrow('held by cooldown');
    expect((await openSheetOf(stack.url)).lines).toEqual([]);
    const beyond = await accept([key], { [key]: { beyond: true } });
    expect(beyond.lines).toBe(lines);
    await empty();
  });
});

describe('set by hand', () => {
  test('what cannot be is refused with its place; nothing is half-done', async () => {
    const [one] = (await placements()).campaigns;
    const { campaignId } = one!;
    const { placement } = one!.placements[0]!;
    const set = (to: number, more: object = {}) =>
      handSet({ campaignId, modifiers: [{ placement, to }], ...more });
    await expect(set(5000)).rejects.toThrow(/A modifier lies between 0 % and 600 %/);
    await expect(set(-1)).rejects.toThrow(/A modifier lies between/);
    await expect(set(10.5)).rejects.toThrow(/integer/);
    await expect(handSet({ campaignId, modifiers: [{ placement: 'shop_window', to: 10 }] })).rejects.toThrow(
      /no placement of/,
    );
    await expect(handSet({ campaignId: '999999999', modifiers: [{ placement, to: 10 }] })).rejects.toThrow(
      /not there any more/,
    );
    await expect(set(300)).rejects.toThrow(/more than 2 times its bid/);
    await expect(
      handSet({
        campaignId,
        modifiers: one!.placements.map((row) => ({ placement: row.placement, to: row.modifier })),
      }),
    ).rejects.toThrow(/stand like that already/);
    expect((await openSheetOf(stack.url)).lines).toHaveLength(0);
    const { lines } = await set(300, { confirmed: true });
    expect(lines).toBe(1);
    await empty();
  });

  test('of what is set by hand nothing is forecast; the sheet says of how many lines', async () => {
    const { campaigns } = await placements();
    const found = campaigns.find(({ isFinding }) => isFinding)!;
    const other = campaigns.find((row) => row.campaignId !== found.campaignId && row.strategy === 'fixed')!;
    const [{ placement, modifier }] = other.placements as [PlacedRow['placements'][number]];
    await accept([placementKey(found.campaignId)]);
    expect((await call<OpenSheet>('GET', 'sheet')).unforecast).toBe(0);
    await handSet({ campaignId: other.campaignId, modifiers: [{ placement, to: modifier + 10 }] });
    const { lines, unforecast } = await call<OpenSheet>('GET', 'sheet');
    expect([unforecast, lines]).toEqual([1, found.lines + 1]);
    await empty();
    // Strategies that no finding proposes are refused; nothing is put on the sheet.
    await expect(
      call('POST', 'spend/placements/strategies', { ...window, strategy: 'down_only', against: 'fixed' }),
    ).rejects.toThrow(/not there any more/);
    expect((await call<OpenSheet>('GET', 'sheet')).lines).toBe(0);
  });

  test('what multiplies into over twice a bid is asked before it is sent, and only that', async () => {
    const { campaigns } = await placements();
    const one = campaigns.find(({ placements: own }) => own.every(({ modifier }) => modifier < 40))!;
    const { placement, modifier } = one.placements[0]!;
    await handSet({ campaignId: one.campaignId, modifiers: [{ placement, to: modifier + 20 }] });
    expect((await call<OpenSheet>('GET', 'sheet')).unusual).toEqual([]);
    await empty();
    await handSet({ campaignId: one.campaignId, modifiers: [{ placement, to: 300 }], confirmed: true });
    const { unusual, sheetId } = await call<OpenSheet>('GET', 'sheet');
    const [{ dearest, factor }] = await sql<[{ dearest: number; factor: number }]>`
      select max(coalesce(t.bid, g.default_bid))::float8 as dearest,
        min(case c.strategy when 'up_and_down' then 2 else 1 end)::float8 as factor
      from target t join ad_group g using (account_id, ad_group_id) join campaign c using (account_id, campaign_id)
      where c.campaign_id = ${one.campaignId} and t.status = 'enabled' and g.status = 'enabled'`;
    expect(unusual).toEqual([
      {
        campaignId: one.campaignId,
        name: one.name,
        placement,
        bid: dearest,
        before: Math.round(dearest * (1 + modifier / 100) * factor),
        after: dearest * 4 * factor,
      },
    ]);
    await expect(call('POST', 'sheet/send', {})).rejects.toThrow(
      /In 1 campaign a click may cost over twice its bid: .+ Nothing was sent/,
    );
    expect((await openSheetOf(stack.url)).lines.map(({ state }) => state)).toEqual(['open']);
    const { jobId } = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, jobId);
    expect((await sentSheetOf(stack.url, sheetId)).lines.map(({ state }) => state)).toEqual(['applied']);
    // A bid that is raised by a half where a click may cost four times it is asked as well; a small step is not.
    const [target] = await sql<[{ id: string }]>`
      select t.target_id::text as id from target t join ad_group g using (account_id, ad_group_id)
      where g.campaign_id = ${one.campaignId} and t.status = 'enabled' and t.bid > 100000 limit 1`;
    for (const [share, asked] of [
      [0.5, 1],
      [0.1, 0],
    ] as const) {
      await call('POST', 'explore/edit', {
        window,
        level: 'targets',
        keys: [target.id],
        edit: { field: 'bid', how: 'percent', value: share },
      });
      expect((await openSheetOf(stack.url)).lines).toHaveLength(1);
      expect((await call<OpenSheet>('GET', 'sheet')).unusual).toHaveLength(asked);
      await empty();
    }
    const reverted = await call<{ lines: number }>('POST', `ledger/${sheetId}/revert`, {});
    expect(reverted.lines).toBe(1);
    expect((await call<OpenSheet>('GET', 'sheet')).unusual).toEqual([]);
    const back = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, back.jobId);
  });

  test('a campaign that went away at the marketplace meanwhile: its line is refused there, and said', async () => {
    const [, one] = (await placements()).campaigns;
    const { placement, modifier } = one!.placements[0]!;
    await handSet({ campaignId: one!.campaignId, modifiers: [{ placement, to: modifier + 10 }] });
    const [{ ext }] = await sql<[{ ext: string }]>`
      select ext_id as ext from campaign where account_id = 1 and campaign_id = ${one!.campaignId}`;
    await callQuayside(stack.quayside, 'POST', '/changes', {
      idempotency_key: 'campaign-gone-1',
      lines: [
        { line_id: '1', action: 'archive', entity: 'campaign', id: ext, campaign_id: ext, field: 'status' },
      ],
    });
    const { sheetId } = await openSheetOf(stack.url);
    const { jobId } = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, jobId);
    const { lines } = await sentSheetOf(stack.url, sheetId);
    expect(lines.map(({ state }) => state)).toEqual(['refused']);
  });
});
