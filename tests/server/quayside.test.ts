import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parse } from 'csv-parse/sync';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startQuayside, type Running } from '../../scripts/lib/processes.ts';
import { callQuayside, makeDatabase, reportText, structureOf } from '../support/stack.ts';

let quayside: Running;
const start = async (env: NodeJS.ProcessEnv = {}) =>
  startQuayside({
    databaseUrl: await makeDatabase('quayside_seed'),
    scenario: process.env.MOWING_TEST_SCENARIO!,
    days: 0,
    flags: ['--faults'],
    env: { QUAYSIDE_RATE: '2000', ...env },
  });
beforeAll(async () => {
  quayside = await start();
});
afterAll(() => quayside.stop());

const call = <T>(method: string, path: string, body?: unknown) =>
  callQuayside<T>(quayside.url, method, path, body);

interface Answer {
  lines: { line_id: string; state: string; code?: string; message?: string; id?: string }[];
  repeated: boolean;
}
let keys = 0;
const change = (lines: object[], key = `test-key-${++keys}`) =>
  call<Answer>('POST', '/changes', { idempotency_key: key, lines });

describe('reports', () => {
  test('the same day and settings give the same figures on every machine', async () => {
    const other = await start();
    try {
      for (const url of [quayside.url, other.url])
        await callQuayside(url, 'POST', '/clock/advance', { days: 1 });
      const [a, b] = await Promise.all(
        [quayside.url, other.url].map((url) => reportText(url, 'terms-daily', '2026-11-22', '2026-11-22')),
      );
      expect(a).toBe(b);
      expect(a!.split('\n').length).toBeGreaterThan(200);
    } finally {
      await other.stop();
    }
  });

  test('days are restated while their orders settle: later reports never know fewer orders', async () => {
    const orders = async () =>
      (
        parse(await reportText(quayside.url, 'targets-daily', '2026-11-22', '2026-11-22'), {
          columns: true,
        }) as Record<string, string>[]
      ).reduce((sum, row) => sum + Number(row.orders), 0);
    const first = await orders();
    await call('POST', '/clock/advance', { days: 4 });
    const later = await orders();
    expect(later).toBeGreaterThan(first);
  });

  test('terms, targets and placements tell the same clicks and spend', async () => {
    const sum = async (kind: string) => {
      const rows = parse(await reportText(quayside.url, kind, '2026-11-01', '2026-11-03'), {
        columns: true,
      }) as Record<string, string>[];
      return [
        rows.reduce((total, row) => total + Number(row.clicks), 0),
        Math.round(rows.reduce((total, row) => total + Number(row.spend) * 100, 0)),
        rows.reduce((total, row) => total + Number(row.orders), 0),
      ];
    };
    const targets = await sum('targets-daily');
    expect(await sum('terms-daily')).toEqual(targets);
    expect(await sum('placements-daily')).toEqual(targets);
  });
});

describe('changes', () => {
  test('each line is applied or refused with its reason', async () => {
    const { lines } = await change([
      {
        line_id: 'ok',
        action: 'create',
        entity: 'negative',
        ad_group_id: 'g101',
        match_type: 'negative_exact',
        expression: 'lids for cooking',
      },
      {
        line_id: 'twice',
        action: 'create',
        entity: 'negative',
        ad_group_id: 'g101',
        match_type: 'negative_exact',
        expression: 'Lids for cooking',
      },
      {
        line_id: 'low',
        action: 'create',
        entity: 'target',
        ad_group_id: 'g104',
        target_kind: 'keyword',
        match_type: 'exact',
        expression: 'blue lids',
        new_value: '0.02',
      },
      {
        line_id: 'step',
        action: 'create',
        entity: 'target',
        ad_group_id: 'g104',
        target_kind: 'keyword',
        match_type: 'exact',
        expression: 'blue lids',
        new_value: '0.505',
      },
      {
        line_id: 'unknown',
        action: 'update',
        entity: 'target',
        id: 't1',
        field: 'bid',
        old_value: '0.5',
        new_value: '0.6',
      },
      {
        line_id: 'stale',
        action: 'update',
        entity: 'campaign',
        id: 'c101',
        field: 'daily_budget',
        old_value: '99',
        new_value: '15',
      },
      {
        line_id: 'budget',
        action: 'update',
        entity: 'campaign',
        id: 'c101',
        field: 'daily_budget',
        new_value: '1.50',
      },
      {
        line_id: 'long',
        action: 'create',
        entity: 'target',
        ad_group_id: 'g104',
        target_kind: 'keyword',
        match_type: 'exact',
        expression: 'x'.repeat(91),
        new_value: '0.5',
      },
      {
        line_id: 'signs',
        action: 'create',
        entity: 'target',
        ad_group_id: 'g104',
        target_kind: 'keyword',
        match_type: 'exact',
        expression: 'lids 🫙',
        new_value: '0.5',
      },
      {
        line_id: 'modifier',
        action: 'update',
        entity: 'placement_modifier',
        campaign_id: 'c101',
        field: 'top_of_search',
        new_value: '601',
      },
    ]);
    expect(Object.fromEntries(lines.map(({ line_id, state, code }) => [line_id, code ?? state]))).toEqual({
      ok: 'applied',
      twice: 'duplicate',
      low: 'bid_below_minimum',
      step: 'bid_step',
      unknown: 'unknown_object',
      stale: 'stale',
      budget: 'budget_below_minimum',
      long: 'keyword_too_long',
      signs: 'keyword_characters',
      modifier: 'modifier_range',
    });
  });

  test('the same key again gives the same answer and applies nothing; for other lines it is refused', async () => {
    const line = {
      line_id: '1',
      action: 'create',
      entity: 'negative',
      ad_group_id: 'g102',
      match_type: 'negative_exact',
      expression: 'once only',
    };
    const first = await change([line], 'same-key-twice');
    const second = await change([line], 'same-key-twice');
    expect(second).toMatchObject({ lines: first.lines, repeated: true });
    await expect(change([{ ...line, expression: 'other' }], 'same-key-twice')).rejects.toThrow('409');
    const negatives = (await structureOf(quayside.url)).filter((row) => row.expression === 'once only');
    expect(negatives).toHaveLength(1);
  });

  test('a negative stops its term from the next day on', async () => {
    const rows = parse(await reportText(quayside.url, 'terms-daily', '2026-11-01', '2026-11-20'), {
      columns: true,
    }) as Record<string, string>[];
    const clicks = new Map<string, number>();
    for (const row of rows) {
      const key = `${row.ad_group_id}\t${row.term}`;
      clicks.set(key, (clicks.get(key) ?? 0) + Number(row.clicks));
    }
    const [[place]] = [...clicks].sort((a, b) => b[1] - a[1]) as [[string, number]];
    const [adGroup, term] = place.split('\t') as [string, string];
    await change([
      {
        line_id: '1',
        action: 'create',
        entity: 'negative',
        ad_group_id: adGroup,
        match_type: 'negative_exact',
        expression: term,
      },
    ]);
    const { today } = await call<{ today: string }>('POST', '/clock/advance', { days: 1 });
    const after = parse(await reportText(quayside.url, 'terms-daily', today, today), {
      columns: true,
    }) as Record<string, string>[];
    expect(after.filter((row) => row.ad_group_id === adGroup && row.term === term)).toEqual([]);
    expect(after.length).toBeGreaterThan(100);
  });

  test('a schedule turns a campaign off in the hours it names; what cannot be read is refused', async () => {
    const schedule = (line_id: string, new_value: string) => ({
      line_id,
      action: 'update',
      entity: 'campaign',
      id: 'c104',
      field: 'schedule',
      new_value,
    });
    const days = ['sunday', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday'];
    const mornings = days.map((day) => `${day} 0-11 0`).join('; ');
    const { lines } = await change([schedule('off', mornings), schedule('bad', 'sunday 9-30 50')]);
    expect(lines.map(({ state }) => state)).toEqual(['applied', 'refused']);
    expect(lines[1]!.message).toContain('"sunday 9-30 50"');
    expect(
      (await structureOf(quayside.url)).find((row) => row.entity === 'campaign' && row.campaign_id === 'c104')
        ?.schedule,
    ).toBe(mornings);
    const { today } = await call<{ today: string }>('POST', '/clock/advance', { days: 1 });
    const rows = (
      parse(await reportText(quayside.url, 'campaign-hours', today, today), {
        columns: true,
      }) as Record<string, string>[]
    ).filter((row) => row.campaign_id === 'c104');
    const impressions = (from: number, to: number) =>
      rows
        .filter((row) => Number(row.hour) >= from && Number(row.hour) <= to)
        .reduce((sum, row) => sum + Number(row.impressions), 0);
    expect(impressions(0, 11)).toBe(0);
    expect(impressions(12, 23)).toBeGreaterThan(50);
  });
});

describe('as an outside service', () => {
  test('no answer without a token', async () => {
    expect((await fetch(`${quayside.url}/structure`)).status).toBe(401);
  });

  test('too many calls are told to wait', async () => {
    const slow = await start({ QUAYSIDE_RATE: '3' });
    try {
      const answers = await Promise.all(Array.from({ length: 8 }, () => fetch(`${slow.url}/health`)));
      const refused = answers.find((answer) => answer.status === 429);
      expect(refused?.headers.get('retry-after')).toBeTruthy();
    } finally {
      await slow.stop();
    }
  });

  test('there is no truth without --reveal', async () => {
    await expect(call('GET', '/truth')).rejects.toThrow('404');
  });
});

describe('the clock by hours', () => {
  const noon = async (url: string, id: string) => {
    const { today } = await callQuayside<{ today: string }>(url, 'GET', '/account');
    const rows = parse(await reportText(url, 'campaign-hours', today, today), {
      columns: true,
    }) as Record<string, string>[];
    const of = rows.filter((row) => row.campaign_id === id);
    const shown = (from: number, to: number) =>
      of
        .filter(({ hour }) => Number(hour) >= from && Number(hour) < to)
        .reduce((sum, row) => sum + Number(row.impressions), 0);
    return { today, hours: of.length, morning: shown(0, 12), afternoon: shown(12, 24) };
  };

  test('a day lived by hours, over a restart and with a campaign paused at noon', async () => {
    const databaseUrl = await makeDatabase('quayside_seed');
    const scenario = process.env.MOWING_TEST_SCENARIO!;
    const settings = { databaseUrl, scenario, days: 0, flags: [], env: { QUAYSIDE_RATE: '2000' } };
    let one = await startQuayside(settings);
    const other = await start();
    try {
      const advance = (url: string, by: object) => callQuayside(url, 'POST', '/clock/advance', by);
      expect(await advance(one.url, { hours: 5 })).toMatchObject({ hour: 5 });
      await one.stop();
      one = await startQuayside(settings);
      expect(await callQuayside(one.url, 'GET', '/account')).toMatchObject({ hour: 5 });
      await advance(one.url, { hours: 7 });
      const before = await noon(one.url, 'c104');
      expect(before).toMatchObject({ hours: 12, afternoon: 0 });
      expect(before.morning).toBeGreaterThan(50);

      // Left as it is, the day comes to what it is in one go, in every report.
      await advance(other.url, { hours: 12 });
      expect(await advance(other.url, { hours: 12 })).toMatchObject({ today: before.today, hour: 24 });
      const whole = await start();
      try {
        await advance(whole.url, { days: 1 });
        for (const kind of ['terms-daily', 'placements-daily', 'products-daily', 'campaign-hours']) {
          const [a, b] = await Promise.all(
            [other.url, whole.url].map((url) => reportText(url, kind, before.today, before.today)),
          );
          expect(a!.split('\n').sort()).toEqual(b!.split('\n').sort());
        }
      } finally {
        await whole.stop();
      }

      const pause = { line_id: '1', action: 'update', entity: 'campaign', id: 'c104', field: 'status' };
      await callQuayside(one.url, 'POST', '/changes', {
        idempotency_key: 'paused at noon',
        lines: [{ ...pause, new_value: 'paused' }],
      });
      // A day from noon on ends at noon.
      expect(await advance(one.url, { hours: 12 })).toMatchObject({ today: before.today, hour: 24 });
      expect(await noon(one.url, 'c104')).toMatchObject({ morning: before.morning, afternoon: 0, hours: 12 });
      expect((await noon(other.url, 'c104')).afternoon).toBeGreaterThan(50);
      expect(await advance(one.url, { hours: 3 })).toMatchObject({ hour: 3 });
      expect(await advance(one.url, { days: 1 })).toMatchObject({ hour: 3 });
    } finally {
      await one.stop();
      await other.stop();
    }
  });

  test('days and hours together, or none, are refused', async () => {
    for (const body of [{}, { days: 1, hours: 2 }, { hours: 0 }, { hours: 1.5 }])
      await expect(call('POST', '/clock/advance', body)).rejects.toThrow(/days|hours|400/);
  });
});

test('somebody changes bids by hand: the structure says so under a new version, and it holds over a restart', async () => {
  const scenario = JSON.parse(readFileSync(process.env.MOWING_TEST_SCENARIO!, 'utf8')) as object;
  const path = join(mkdtempSync(join(tmpdir(), 'quayside-')), 'hands.json');
  writeFileSync(path, JSON.stringify({ ...scenario, hands: 1, movesFrom: '2026-08-24' }));
  const settings = {
    databaseUrl: await makeDatabase(),
    scenario: path,
    days: 1,
    flags: [],
    env: { QUAYSIDE_RATE: '2000' },
  };
  const bids = async (url: string) =>
    new Map(
      (await structureOf(url))
        .filter(({ entity }) => entity === 'target')
        .map((row) => [row.target_id, row.bid]),
    );
  const version = async (url: string) =>
    (await callQuayside<{ version: number }>(url, 'GET', '/structure')).version;
  let one = await startQuayside(settings);
  try {
    const [before, was] = [await bids(one.url), await version(one.url)];
    await callQuayside(one.url, 'POST', '/clock/advance', { days: 1 });
    const after = await bids(one.url);
    expect([...after].filter(([id, bid]) => before.get(id) !== bid)).toHaveLength(1);
    expect(await version(one.url)).toBe(was + 1);
    await one.stop();
    one = await startQuayside(settings);
    expect(await bids(one.url)).toEqual(after);
  } finally {
    await one.stop();
  }
});
