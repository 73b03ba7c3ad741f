import { randomUUID } from 'node:crypto';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type { DeskAnswer, GroundsAnswer, KitAnswer, KitRow, ReadKits } from '../../src/answers/kits.ts';
import type { SheetLine } from '../../src/answers/changes.ts';
import type { KitBody } from '../../src/core/kits/kit.ts';
import { shippedRecipes } from '../../src/core/kits/recipe.ts';
import { kitBody as bodyOf } from '../support/kits.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';
import { callQuayside, reportText, startStack, structureOf, type Stack } from '../support/stack.ts';

/** Kits from their draft to the marketplace: made whole, made once, and taken back as one. */

let stack: Stack;
beforeAll(async () => {
  // Few lines a batch: what later ones stand on was made by earlier ones.
  stack = await startStack(true, { MOWING_BATCH_LINES: '12' });
});
afterAll(() => stack.stop());

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/1${path}`, body);
const fault = (kind: string, times = 1) =>
  fetch(`${stack.quayside}/faults`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ kind, times }),
  });

const begin = async (more: Partial<KitBody> = {}): Promise<KitAnswer> =>
  call<KitAnswer>('POST', '/kits', { kitId: randomUUID(), body: bodyOf(more) });
const put = ({ kitId, version }: KitAnswer) =>
  call<{ groups: string[]; lines: number }>('POST', `/kits/${kitId}/sheet`, { version });
const open = async (): Promise<SheetLine[]> => (await openSheetOf(stack.url)).lines;
const clear = (groups: string[]) => call('POST', '/sheet/undo', { groups });
async function send(): Promise<{ sheetId: number; lines: SheetLine[] }> {
  const { jobId } = await call<{ jobId: string }>('POST', '/sheet/send', {});
  const job = await waitForJob(stack.url, jobId);
  const { sheetId } = job.result as { sheetId: number };
  const { lines } = await sentSheetOf(stack.url, sheetId);
  return { sheetId, lines };
}
const states = (lines: SheetLine[]) =>
  lines.reduce<Record<string, number>>((sum, { state }) => ({ ...sum, [state]: (sum[state] ?? 0) + 1 }), {});

describe('what a kit starts from', () => {
  test('products with the codes that the account uses, recipes, limits', async () => {
    const desk = await call<DeskAnswer>('GET', '/kits/desk');
    expect(desk.products).toHaveLength(8);
    expect(desk.products.find(({ sku }) => sku === 'TT-LID4')!.code).toBe('Lids');
    expect(desk.recipes.map(({ recipe }) => recipe.name)).toEqual(shippedRecipes.map(({ name }) => name));
    expect(desk.limits).toMatchObject({ minimumBudget: { daily: 2_000_000 }, targetsPerAdGroup: 1000 });
    expect(desk.limits.leastCpc).toMatchObject({ exact: 50_000, items: 40_000 });
    expect(desk.taken.length).toBeGreaterThan(30);
  });

  test('what account and marketplace say of a product', async () => {
    const { grounds, suggestions, problem } = await call<GroundsAnswer>('GET', '/kits/grounds?sku=TT-LID4');
    expect(problem).toBeNull();
    expect(grounds.theta).toBeGreaterThan(0.05);
    expect(grounds.evidence.exact.clicks).toBeGreaterThan(500);
    expect(grounds.evidence.exact.rate.shape / grounds.evidence.exact.rate.rate).toBeGreaterThan(0.01);
    expect(grounds.served.length).toBeGreaterThan(30);
    expect(grounds.proven[0]!.orders).toBeGreaterThan(grounds.proven.at(-1)!.orders);
    expect(suggestions.keywords).toHaveLength(300);
    const { low, middle, high } = suggestions.keywords[0]!.range;
    expect([low <= middle, middle <= high]).toEqual([true, true]);
    await expect(call('GET', '/kits/grounds?sku=NONE')).rejects.toThrow('product NONE');
  });

  test('recipes are kept under names of their own', async () => {
    const recipe = { ...shippedRecipes[2]!, name: 'Mine' };
    await call('PUT', '/kits/recipes', recipe);
    const names = async () =>
      (await call<DeskAnswer>('GET', '/kits/desk')).recipes.map((one) => one.recipe.name);
    expect(await names()).toContain('Mine');
    await expect(call('PUT', '/kits/recipes', shippedRecipes[0])).rejects.toThrow('comes with Mowing');
    await expect(call('PUT', '/kits/recipes', { ...recipe, parts: [] })).rejects.toThrow('parts');
    await call('DELETE', '/kits/recipes?name=Mine', {});
    expect(await names()).not.toContain('Mine');
  });
});

describe('drafts', () => {
  test('keep themselves; who edits an older version is told, and overwrites nothing', async () => {
    const kit = await begin({ name: 'A draft' });
    const edit = (version: number, name: string) =>
      call<{ version: number }>('PUT', `/kits/${kit.kitId}`, { version, body: bodyOf({ name }) });
    expect((await edit(1, 'First')).version).toBe(2);
    await expect(edit(1, 'Second')).rejects.toThrow('Somebody else changed this kit');
    expect((await call<KitAnswer>('GET', `/kits/${kit.kitId}`)).body.name).toBe('First');
    const list = await call<KitRow[]>('GET', '/kits');
    expect(list[0]).toMatchObject({ kitId: kit.kitId, name: 'First', products: 1, onSheet: false });
    await expect(put({ ...kit, version: 1 })).rejects.toThrow('nothing was put on the sheet');
    await call('DELETE', `/kits/${kit.kitId}`, {});
    await expect(call('GET', `/kits/${kit.kitId}`)).rejects.toThrow('kit');
  });

  test('a kit that cannot be made says why, and puts nothing down', async () => {
    const small = await begin({ budget: 5_000_000 });
    await expect(put(small)).rejects.toThrow('TT-TMP1, automatic: 1.00 is below the least budget of 2.00');
    await expect(put(await begin({ skus: [] }))).rejects.toThrow('A kit needs a product.');
    await expect(put(await begin({ skus: ['NONE'] }))).rejects.toThrow('no product NONE');
    expect(await open()).toEqual([]);
  });
});

describe('a file of kits', () => {
  const read = async (text: string) => {
    const response = await fetch(`${stack.url}/api/1/kits/file`, { method: 'POST', body: text });
    return (await response.json()) as ReadKits & { detail?: string };
  };

  test('is read row by row: what can be a kit is offered, what is wrong is told with its line', async () => {
    const { kits, problems } = await read(
      [
        'SKU;recipe;budget;name_code;keywords;start_date;state',
        'TT-LID4;full set;60,50;;;;',
        'qy8f1w6l;Exact only;12;Tamp;"kraut tamper, cabbage tamper";2026-12-01;paused',
        '',
        'NONE;Full set;60;;;;',
        'TT-WGT6;Half set;60;;;;',
        'TT-WGT6;Full set;much;;;;',
        'TT-WGT6;Full set;60;;;01.12.2026;',
        'TT-LID4;Full set;60;;;;',
        'TT-WGT6;Full set;60;;;;on',
      ].join('\n'),
    );
    expect(kits.map(({ name, skus, budget, startPaused }) => [name, skus, budget, startPaused])).toEqual([
      ['Lids: Full set', ['TT-LID4'], 60_500_000, false],
      ['Tamp: Exact only', ['TT-TMP1'], 12_000_000, true],
    ]);
    expect(kits[0]!.keywords).toHaveLength(40);
    expect(kits[1]).toMatchObject({
      startDate: '2026-12-01',
      codes: { 'TT-TMP1': 'Tamp' },
      keywords: [{ text: 'kraut tamper' }, { text: 'cabbage tamper' }],
    });
    expect(problems.map(({ row, column }) => [row, column])).toEqual([
      [5, 'sku'],
      [6, 'recipe'],
      [7, 'budget'],
      [8, 'start_date'],
      [9, 'sku'],
      [10, 'state'],
    ]);
  });

  test('that is none is told as such', async () => {
    expect((await read('sku,budget\nTT-LID4,5')).detail).toContain('The column recipe is missing');
    expect((await read('sku,recipe,budget\n')).detail).toContain('no kit in this file');
  });
});

describe('on the sheet', () => {
  test('everything stands there once; a second kit of the same names is told, and undo takes all of it off', async () => {
    const kit = await begin();
    const { groups, lines } = await put(kit);
    const there = await open();
    expect(there).toHaveLength(lines);
    expect(
      there
        .filter(({ entity }) => entity === 'campaign')
        .map(({ campaign }) => campaign)
        .sort(),
    ).toEqual(
      ['automatic', 'broad', 'category', 'exact', 'items', 'phrase'].map((part) => `Tamper new ${part}`),
    );
    expect(there.some(({ conflict, overtaken }) => conflict || overtaken)).toBe(false);
    await expect(put(kit)).rejects.toThrow('on the sheet already');
    // Names that are taken get numbers; one that is set by hand is told.
    const named = await begin({ edits: { 'TT-TMP1': { exact: { name: 'Tamper new exact' } } } });
    await expect(put(named)).rejects.toThrow('There is a campaign “Tamper new exact” already');
    await clear(groups);
    expect(await open()).toEqual([]);
    const again = await put(kit);
    expect(again.lines).toBe(lines);
    await clear(again.groups);
  });

  test('a campaign goes with all that stands in it, and comes back with what stands on it', async () => {
    const { groups } = await put(await begin());
    const all = await open();
    const exact = all.filter(({ campaign }) => campaign === 'Tamper new exact');
    const head = exact.find(({ entity }) => entity === 'campaign')!;
    await call('POST', '/sheet/lines', { lineIds: [head.line_id] });
    expect((await open()).some(({ campaign }) => campaign === 'Tamper new exact')).toBe(false);
    const target = exact.find(({ entity }) => entity === 'target')!;
    await call('POST', '/sheet/lines', { lineIds: [target.line_id], back: true });
    const back = (await open()).filter(({ campaign }) => campaign === 'Tamper new exact');
    expect(back.map(({ entity }) => entity).sort()).toEqual(['ad_group', 'campaign', 'target']);
    await clear(groups);
  });
});

describe('sent', () => {
  test('with answers lost on the way everything is made once, is shown, and is taken back as one', async () => {
    const before = await structureOf(stack.quayside);
    const { lines } = await put(await begin());
    await fault('cut_after_batch', 2);
    await fault('cut_before_batch', 1);
    const sent = await send();
    expect(states(sent.lines)).toEqual({ applied: lines });
    const made = (await structureOf(stack.quayside)).slice();
    const fresh = made.filter((row) => String(row.campaign ?? '').startsWith('Tamper new'));
    expect(fresh.filter(({ entity }) => entity === 'campaign')).toHaveLength(6);
    expect(made.length - before.length).toBe(fresh.length);
    const count = (entity: string) => fresh.filter((row) => row.entity === entity).length;
    const told = (entity: string) => sent.lines.filter((line) => line.entity === entity).length;
    for (const entity of ['campaign', 'ad_group', 'product_ad', 'target', 'negative'])
      expect([entity, count(entity)]).toEqual([entity, told(entity)]);
    const sql = postgres(stack.databaseUrl, { max: 1 });
    try {
      const [known] = await sql`
        select count(*)::int as campaigns, count(c.ext_id)::int as ids from campaign c where name like 'Tamper new%'`;
      expect(known).toEqual({ campaigns: 6, ids: 6 });
    } finally {
      await sql.end();
    }

    const { today } = await callQuayside<{ today: string }>(stack.quayside, 'POST', '/clock/advance', {
      days: 4,
    });
    const rows = (await reportText(stack.quayside, 'targets-daily', '2026-11-22', today)).split('\n');
    const shown = rows.filter((row) => row.includes('Tamper new'));
    expect(shown.length).toBeGreaterThan(4);

    await call('POST', `/ledger/${sent.sheetId}/revert`, {});
    const taken = await send();
    expect(taken.lines.every(({ state, action }) => state === 'applied' && action === 'archive')).toBe(true);
    const after = (await structureOf(stack.quayside)).filter((row) =>
      String(row.campaign ?? '').startsWith('Tamper new'),
    );
    expect(new Set(after.filter(({ entity }) => entity === 'campaign').map(({ status }) => status))).toEqual(
      new Set(['archived']),
    );
  });

  test('what is refused takes what stands on it along; it is mended and the rest sent', async () => {
    const blocker = {
      line_id: '1',
      action: 'create',
      entity: 'campaign',
      values: { name: 'Second exact', kind: 'manual', budget: 5 },
    };
    const made = await callQuayside<{ lines: { id: string }[] }>(stack.quayside, 'POST', '/changes', {
      idempotency_key: randomUUID(),
      lines: [blocker],
    });
    const { lines } = await put(await begin({ codes: { 'TT-TMP1': 'Second' } }));
    const sent = await send();
    const refused = sent.lines.filter(({ state }) => state === 'refused');
    expect(new Set(refused.map(({ campaign }) => campaign))).toEqual(new Set(['Second exact']));
    expect(refused.find(({ entity }) => entity === 'campaign')!.message).toContain('There is a campaign');
    expect(sent.lines).toHaveLength(lines);
    expect(made.lines[0]!.id).toMatch(/^c/);
    await call('POST', `/ledger/${sent.sheetId}/repair`, {});
    const head = (await open()).find(({ entity }) => entity === 'campaign')!;
    const rename = (name: string) => call('POST', `/sheet/lines/${head.line_id}`, { name });
    await expect(rename('Lids exact')).rejects.toThrow('There is a campaign “Lids exact” already');
    await expect(rename(' ')).rejects.toThrow('cannot be taken away');
    await rename('Third exact');
    const rest = await send();
    expect(states(rest.lines)).toEqual({ applied: refused.length });
    const fresh = (await structureOf(stack.quayside)).filter(
      (row) => row.campaign === 'Third exact' && row.status === 'enabled' && row.entity === 'campaign',
    );
    expect(fresh).toHaveLength(1);
  });
});

test('by hand: a line that is applied takes along what it stands in, and the account has both', async () => {
  const { accountId } = await callApi<{ accountId: number }>(stack.url, 'POST', '/api/accounts', {
    name: 'By hand',
  });
  const mine = <T>(method: string, path: string, body?: unknown) =>
    callApi<T>(stack.url, method, `/api/${accountId}${path}`, body);
  const file = async (name: string, text: string, kind: string) => {
    const response = await fetch(`${stack.url}/api/${accountId}/files?name=${name}`, {
      method: 'POST',
      body: text,
    });
    const { uploadId } = (await response.json()) as { uploadId: string };
    const { jobId } = await mine<{ jobId: string }>('POST', '/imports', { uploadId, kind });
    await waitForJob(stack.url, jobId, () => undefined, accountId);
  };
  await file(
    'products.csv',
    'sku,item_code,title,price,category\nPOT,QY2AAAAA,Clay pot,20,pots\n',
    'products',
  );
  await file(
    'terms.csv',
    'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n' +
      '2026-11-03,Old,Old,pots,broad,clay pots,100,10,5.00,2,40.00\n',
    'terms-daily',
  );
  const kit = await mine<KitAnswer>('POST', '/kits', {
    kitId: randomUUID(),
    body: bodyOf({ skus: ['POT'], codes: {}, items: [], recipe: shippedRecipes[2]! }),
  });
  await mine('POST', `/kits/${kit.kitId}/sheet`, { version: 1 });
  const { lines } = await openSheetOf(stack.url, accountId);
  const target = lines.find(({ entity }) => entity === 'target')!;
  const done = await mine<{ lines: number; left: number }>('POST', '/sheet/carried', {
    lineIds: [target.line_id],
  });
  expect(done).toMatchObject({ lines: 3, left: lines.length - 3 });
  const rest = await openSheetOf(stack.url, accountId);
  expect(rest.lines.map(({ campaign }) => campaign)).toEqual(rest.lines.map(() => 'POT exact'));
  await mine('POST', '/sheet/carried', { lineIds: null });
  const sql = postgres(stack.databaseUrl, { max: 1 });
  try {
    const [made] = await sql`
      select (select count(*)::int from campaign where account_id = ${accountId} and name = 'POT exact') as campaigns,
        (select count(*)::int from target t join ad_group g using (account_id, ad_group_id)
          where account_id = ${accountId} and g.name = 'POT exact') as targets,
        (select count(*)::int from product_ad where account_id = ${accountId} and sku = 'POT') as ads`;
    expect(made).toEqual({ campaigns: 1, targets: 3, ads: 1 });
  } finally {
    await sql.end();
  }
});
