import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi } from '../../scripts/lib/processes.ts';
import { matches } from '../../src/core/terms/match.ts';
import { startStack, type Stack } from '../support/stack.ts';
import { openSheetOf } from '../support/sheets.ts';

/** What is answered of search terms, against plain SQL and the plain matcher on the demo account. */

let stack: Stack;
let sql: postgres.Sql;
const window = { from: '2026-10-18', to: '2026-11-16' };
beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1, types: { bigint: postgres.BigInt } });
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const api = <T>(method: string, path: string, body?: object) => callApi<T>(stack.url, method, path, body);
const post = <T>(path: string, body: object) =>
  api<T>('POST', `/api/1/terms/${path}`, { ...window, ...body });
/** The sentence of a refused call. */
const refused = async (method: string, path: string, body: object): Promise<string> => {
  const response = await fetch(`${stack.url}${path}`, {
    method,
    headers: { 'content-type': 'application/json', origin: stack.url },
    body: JSON.stringify(body),
  });
  expect(response.status, await response.clone().text()).toBeGreaterThanOrEqual(400);
  return ((await response.json()) as { detail: string }).detail;
};

interface TermSum {
  text: string;
  clicks: number;
  spend: number;
  orders: number;
  first: string;
}

/** Every term with its sums over the window, item codes left out. */
const termSums = async (sku: string | null = null): Promise<TermSum[]> =>
  (
    await sql`
      select m.text, coalesce(sum(d.clicks) filter (where inside), 0) as clicks,
        coalesce(sum(d.spend) filter (where inside), 0) as spend,
        coalesce(sum(d.orders) filter (where inside), 0) as orders, min(d.day)::text as first
      from (select *, day between ${window.from} and ${window.to} as inside from term_day) d
      join term m using (account_id, term_id) join target t using (account_id, target_id)
      where m.text !~* '^QY[0-9A-Z]{6}$' and (${sku}::text is null or t.ad_group_id in (
        select ad_group_id from product_ad p where p.status = 'enabled' group by 1 having min(p.sku) = ${sku}))
      group by m.text`
  ).map((row) => ({
    text: row.text as string,
    clicks: Number(row.clicks),
    spend: Number(row.spend),
    orders: Number(row.orders),
    first: row.first as string,
  }));

describe('words', () => {
  interface Row {
    words: string;
    terms: number;
    clicks: number;
    spend: number;
    orders: number;
  }
  test.each([null, 'TT-LID4'])(
    'of all terms, or of one product (%s), have the sums that SQL finds',
    async (sku) => {
      const terms = await termSums(sku);
      const answer = await post<{ rows: Row[]; terms: number; spend: number }>('words', { sku, most: 300 });
      expect(answer.terms).toBe(terms.length);
      expect(answer.spend).toBe(terms.reduce((sum, { spend }) => sum + spend, 0));
      for (const row of answer.rows.filter((_, at) => at % 15 === 0)) {
        const inside = terms.filter(({ text }) => matches('negative_phrase', row.words, text));
        const sum = (name: 'clicks' | 'spend' | 'orders') =>
          inside.reduce((total, one) => total + one[name], 0);
        expect([row.terms, row.clicks, row.spend, row.orders], row.words).toEqual([
          inside.length,
          sum('clicks'),
          sum('spend'),
          sum('orders'),
        ]);
      }
    },
  );

  test('collateral is the terms that a negative phrase blocks; lines stand where it was caught', async () => {
    const terms = (await termSums()).filter(({ text }) => matches('negative_phrase', 'replacement', text));
    const collateral = await post<{
      terms: number;
      orders: number;
      sellers: { term: string; orders: number }[];
      places: { campaignId: string }[];
    }>('collateral', { words: ' Replacement! ' });
    expect(collateral.terms).toBe(terms.length);
    expect(new Set(collateral.sellers.map(({ term }) => term))).toEqual(
      new Set(terms.filter(({ orders }) => orders > 0).map(({ text }) => text)),
    );
    const made = await post<{ groups: string[]; lines: number }>('negate', {
      words: ['replacement'],
      scope: 'campaign',
    });
    expect(made.lines).toBe(new Set(collateral.places.map(({ campaignId }) => campaignId)).size);
    // The same again stands on the sheet already.
    expect(
      (await post<{ lines: number }>('negate', { words: ['replacement'], scope: 'campaign' })).lines,
    ).toBe(0);
    await api('POST', '/api/1/sheet/undo', { groups: made.groups });
  });

  test('a phrase says which terms in the other number it lets through', async () => {
    const { twins } = await post<{
      twins: { words: string; terms: number; spend: number; orders: number }[];
    }>('collateral', { words: 'lid' });
    const lids = (await termSums()).filter(
      ({ text }) => matches('negative_phrase', 'lids', text) && !matches('negative_phrase', 'lid', text),
    );
    expect(lids.length).toBeGreaterThan(10);
    expect(twins).toEqual([
      expect.objectContaining({
        words: 'lids',
        terms: lids.length,
        spend: lids.reduce((sum, { spend }) => sum + spend, 0),
        orders: lids.reduce((sum, { orders }) => sum + orders, 0),
      }),
    ]);
    const none = await post<{ twins: unknown[] }>('collateral', { words: 'replacement' });
    expect(none.twins).toEqual([]);
  });

  test('of a product may stand in all of its campaigns, and in no other', async () => {
    const made = await post<{ groups: string[]; lines: number }>('negate', {
      words: ['canning'],
      scope: 'product',
      sku: 'TT-PHS2',
    });
    const { lines } = await openSheetOf<{ lines: { campaign: string; ad_group: string | null }[] }>(
      stack.url,
    );
    const ours = await sql`
      select distinct c.name from product_ad p join ad_group g using (account_id, ad_group_id)
      join campaign c using (account_id, campaign_id)
      where p.sku = 'TT-PHS2' and p.status = 'enabled' and g.status = 'enabled' and c.status = 'enabled'`;
    expect(lines.length).toBe(made.lines);
    expect(new Set(lines.map(({ campaign }) => campaign))).toEqual(
      new Set(ours.map(({ name }) => name as string)),
    );
    for (const { ad_group } of lines) expect(ad_group).toBeNull();
    await api('POST', '/api/1/sheet/undo', { groups: made.groups });
  });

  test('what cannot be a negative phrase is refused whole: nothing of it reaches the sheet', async () => {
    const body = { ...window, words: ['canning', 'a b c d e f g h i j k'], scope: 'campaign' };
    expect(await refused('POST', '/api/1/terms/negate', body)).toContain('It has 11 words, 10 are the most.');
    expect(
      await refused('POST', '/api/1/terms/negate', { ...body, words: ['never searched for'] }),
    ).toContain('nothing that runs has caught it');
    expect((await openSheetOf<{ lines: unknown[] }>(stack.url)).lines).toEqual([]);
  });
});

describe('new terms', () => {
  test('are those whose first day lies in the window, by SQL', async () => {
    const fresh = (await termSums()).filter(({ first }) => first >= window.from && first <= window.to);
    const answer = await post<{ freshCount: number; fresh: { term: string; spend: number }[] }>(
      'appearances',
      {
        most: 5000,
      },
    );
    const words = answer.fresh.filter(({ term }) => !/^QY[0-9A-Z]{6}$/i.test(term));
    expect(new Set(words.map(({ term }) => term))).toEqual(new Set(fresh.map(({ text }) => text)));
    expect(words.reduce((sum, { spend }) => sum + spend, 0)).toBe(
      fresh.reduce((sum, { spend }) => sum + spend, 0),
    );
  });
});

describe('coverage', () => {
  test('finds every keyword that the plain matcher finds, blocked or not', async () => {
    const targets = await sql`
      select target_id::text as id, match_type as type, expression from target where kind = 'keyword' and status <> 'archived'`;
    for (const { text } of (await termSums()).filter(({ clicks }) => clicks > 30).slice(0, 25)) {
      const { catchers } = await post<{ catchers: { targetId: string; kind: string }[] }>('coverage', {
        term: text,
      });
      const found = catchers.filter(({ kind }) => kind === 'keyword').map(({ targetId }) => targetId);
      const expected = targets
        .filter(({ type, expression }) => matches(type as 'exact', expression as string, text))
        .map(({ id }) => id as string);
      for (const id of expected) expect(found, text).toContain(id);
    }
  });

  test('one target of a product is first, and nobody who is blocked or stopped has a place', async () => {
    const { catchers } = await post<{
      catchers: { sku: string; rank: number | null; stopped: string | null; blockedBy: string[] }[];
    }>('coverage', { term: 'glass weights' });
    const first = catchers.filter(({ rank }) => rank === 1).map(({ sku }) => sku);
    expect(new Set(first).size).toBe(first.length);
    for (const { rank, stopped, blockedBy } of catchers)
      expect(rank === null).toBe(stopped !== null || blockedBy.length > 0);
  });
});

describe('negatives and lists', () => {
  test('a list is one thing: a bad line leaves it as it was, and names itself', async () => {
    const { id } = await api<{ id: number }>('POST', '/api/1/terms/lists', {
      name: 'Never ours',
      entries: [{ matchType: 'negative_phrase', expression: 'canning' }],
      campaignIds: [],
    });
    const bad = {
      name: 'Never ours',
      entries: [{ matchType: 'negative_exact', expression: '🫙' }],
      campaignIds: [],
    };
    expect(await refused('PUT', `/api/1/terms/lists/${id}`, bad)).toBe(
      'Line 1, “🫙”: It has no letter or digit.',
    );
    expect(
      await refused('POST', '/api/1/terms/lists', { ...bad, entries: [], name: 'NEVER ours' }),
    ).toContain('another list');
    const list = await api<{ entries: unknown[] }>('GET', `/api/1/terms/lists/${id}`);
    expect(list.entries).toEqual([{ matchType: 'negative_phrase', expression: 'canning' }]);
    expect(await refused('POST', `/api/1/terms/lists/${id}/apply`, {})).toBe(
      'Attach the list to campaigns first.',
    );
    await api('DELETE', `/api/1/terms/lists/${id}`);
    expect(await refused('DELETE', `/api/1/terms/lists/${id}`, {})).toContain('list');
  });

  test('in every campaign of a product, known item codes as such; what stands on the sheet is not added twice', async () => {
    const call = {
      scope: 'product',
      ids: ['TT-LID4'],
      matchType: 'negative_exact',
      texts: ['hose', 'qyaaaaaa', ''],
    };
    const preview = await api<{ lines: number; places: number }>(
      'POST',
      '/api/1/terms/negatives/preview',
      call,
    );
    expect(preview.lines).toBe(2 * preview.places);
    const made = await api<{ groups: string[]; lines: number }>('POST', '/api/1/terms/negatives', call);
    expect(made.lines).toBe(preview.lines);
    const { lines } = await openSheetOf<{ lines: { match_type: string; expression: string }[] }>(stack.url);
    expect(new Set(lines.map(({ match_type, expression }) => `${match_type} ${expression}`))).toEqual(
      new Set(['negative_exact hose', 'negative_item QYAAAAAA']),
    );
    const again = await api<{ lines: number; standing: number }>(
      'POST',
      '/api/1/terms/negatives/preview',
      call,
    );
    expect([again.lines, again.standing]).toEqual([0, preview.lines]);
    await api('POST', '/api/1/sheet/undo', { groups: made.groups });
  });
});

describe('lanes', () => {
  interface LaneAnswer {
    saved: boolean;
    lanes: (Record<string, unknown> & {
      source: string;
      destination: string;
      kind: string;
      problem: { message: string } | null;
    })[];
    adGroups: { id: string; sums: { orders: number; spend: number } }[];
  }
  const plain = ({ lanes }: LaneAnswer) => lanes.map(({ problem: _, flow: __, ...lane }) => lane);

  test('a set is saved whole or not at all; an archived destination is refused, one archived later stays and says so', async () => {
    const proposed = await api<LaneAnswer>('GET', '/api/1/lanes');
    expect(proposed.saved).toBe(false);
    const [first, ...others] = plain(proposed);
    const group = first!.destination;
    await api('PUT', '/api/1/lanes', { lanes: [first, others[0]] });
    await sql`update ad_group set status = 'archived' where ad_group_id = ${group}`;
    const after = await api<LaneAnswer>('GET', '/api/1/lanes');
    expect(after.lanes).toHaveLength(2);
    expect(after.lanes.find(({ destination }) => destination === group)!.problem!.message).toContain(
      'is archived',
    );
    const fresh = { ...first!, source: others.find(({ source }) => source !== first!.source)!.source };
    expect(await refused('PUT', '/api/1/lanes', { lanes: [fresh] })).toContain(
      'is archived: nothing can be added to it.',
    );
    expect((await api<LaneAnswer>('GET', '/api/1/lanes')).lanes).toHaveLength(2);
    await sql`update ad_group set status = 'enabled' where ad_group_id = ${group}`;
    await api('PUT', '/api/1/lanes', { lanes: null });
    expect((await api<LaneAnswer>('GET', '/api/1/lanes')).saved).toBe(false);
  });

  test('the map’s sums are those of the targets', async () => {
    const { adGroups } = await api<LaneAnswer>('GET', `/api/1/lanes?from=${window.from}&to=${window.to}`);
    const [whole] = await sql`
      select sum(orders)::int as orders, sum(spend)::float8 as spend from target_day where day between ${window.from} and ${window.to}`;
    const total = (name: 'orders' | 'spend') => adGroups.reduce((sum, { sums }) => sum + sums[name], 0);
    expect([total('orders'), total('spend')]).toEqual([whole!.orders, whole!.spend]);
  });
});
