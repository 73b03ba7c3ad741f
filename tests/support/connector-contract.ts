import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { dsvFormat } from 'd3';
import { expect, test } from 'vitest';
import { lineFields } from '../../src/core/changes/fields.ts';
import { isDay } from '../../src/core/metrics/days.ts';
import { mapHeaders, missingColumns } from '../../src/server/imports/files/columns.ts';
import { fileKinds, recogniseKind } from '../../src/server/imports/kinds/index.ts';
import type { Marketplace, OutgoingLine, ReportKind, Row } from '../../src/server/marketplace/connector.ts';

/** What any connector is tried on: see docs/connectors.md. */

const kinds: ReportKind[] = [
  'targets-daily',
  'terms-daily',
  'placements-daily',
  'products-daily',
  'campaign-hours',
  'sold-daily',
];

const bidLine = (target: Row, bid: number, lineId: string): OutgoingLine => ({
  line_id: lineId,
  action: 'update',
  entity: 'target',
  id: String(target.target_id),
  campaign_id: String(target.campaign_id),
  ad_group_id: String(target.ad_group_id),
  field: 'bid',
  old_value: String(target.bid),
  new_value: String(bid),
  target_kind: null,
  match_type: null,
  expression: null,
});

/** A line that makes something, with nothing but what is named. */
const line = (id: string, entity: string, more: Partial<OutgoingLine>): OutgoingLine => ({
  line_id: id,
  action: 'create',
  entity,
  id: null,
  campaign_id: null,
  ad_group_id: null,
  field: '',
  old_value: null,
  new_value: null,
  target_kind: null,
  match_type: null,
  expression: null,
  ...more,
});

/** A campaign with a budget for all its days. */
async function makeForLife(shop: Marketplace, endDate: string): Promise<void> {
  const { minimum_lifetime_budget: least } = await shop.limits();
  const values = {
    name: `For life ${crypto.randomUUID().slice(0, 8)}`,
    kind: 'manual',
    budget_kind: 'lifetime',
    budget: Number(least),
    end_date: endDate,
  };
  const answers = await shop.send(crypto.randomUUID(), [line('1', 'campaign', { temp_id: 'life', values })]);
  expect(answers[0]).toMatchObject({ state: 'applied' });
}

/** An ad group whose rule chooses its products, which no other account can be relied upon to have. */
async function makeCollection(shop: Marketplace): Promise<void> {
  const name = `Chosen ${crypto.randomUUID().slice(0, 8)}`;
  const answers = await shop.send(crypto.randomUUID(), [
    line('1', 'campaign', { temp_id: 'chosen', values: { name, kind: 'manual', budget: 10 } }),
    line('2', 'ad_group', {
      campaign_id: 'new:chosen',
      values: { name, default_bid: 0.5, rule: { inStock: false } },
    }),
  ]);
  expect(answers.map(({ state }) => state)).toEqual(['applied', 'applied']);
}

export function connectorContract(connected: () => Marketplace, unreachable: () => Marketplace): void {
  test('it says what account it is, and in which limits', async () => {
    const shop = connected();
    await shop.reachable();
    const account = await shop.account();
    expect(account.name).not.toBe('');
    expect(Intl.supportedValuesOf('currency')).toContain(account.currency);
    expect(() => new Intl.DateTimeFormat('en', { timeZone: account.timeZone })).not.toThrow();
    expect(isDay(account.firstDay) && isDay(account.today) && account.firstDay <= account.today).toBe(true);
    const limits = await shop.limits();
    expect(limits.minimum_bid).toBeGreaterThan(0);
    expect(limits.maximum_bid).toBeGreaterThan(limits.minimum_bid);
    expect(limits.batch_lines).toBeGreaterThanOrEqual(1);
    expect(() => new RegExp(limits.item_code_pattern, 'iu')).not.toThrow();
  });

  test('its structure names every entity under one that is there', async () => {
    const { rows, version } = await connected().structure();
    expect(version).toBeGreaterThanOrEqual(0);
    const ids = (entity: string, column: string) =>
      new Set(rows.filter((row) => row.entity === entity).map((row) => row[column]));
    const [campaigns, adGroups] = [ids('campaign', 'campaign_id'), ids('ad_group', 'ad_group_id')];
    expect(campaigns.size).toBeGreaterThan(0);
    for (const row of rows) {
      if (row.entity !== 'budget_group') expect(campaigns, String(row.entity)).toContain(row.campaign_id);
      if (row.entity === 'target' || row.entity === 'product_ad') expect(adGroups).toContain(row.ad_group_id);
    }
    const products = new Set((await connected().products()).map(({ sku }) => sku));
    for (const row of rows.filter(({ entity }) => entity === 'product_ad'))
      expect(products).toContain(row.sku);
  });

  test('its reports are files that are recognised, of the days that were asked for', async () => {
    const shop = connected();
    const { today } = await shop.account();
    const to = new Date(Date.parse(today) - 864e5).toISOString().slice(0, 10);
    const from = new Date(Date.parse(today) - 3 * 864e5).toISOString().slice(0, 10);
    const folder = mkdtempSync(join(tmpdir(), 'mowing-'));
    for (const kind of kinds) {
      const path = join(folder, `${kind}.csv`);
      await shop.report(kind, from, to, path);
      const [header, ...rows] = dsvFormat(',').parseRows(readFileSync(path, 'utf8'));
      expect(recogniseKind(header!), kind).toBe(kind);
      const { columns } = fileKinds[kind];
      expect(missingColumns(columns, mapHeaders(columns, header!)), kind).toEqual([]);
      const days = new Set(rows.map((cells) => cells[header!.indexOf('date')]!));
      for (const day of days) expect(day >= from && day <= to, `${kind} ${day}`).toBe(true);
      expect(rows.length, kind).toBeGreaterThan(0);
    }
  });

  test('a batch under the same key is applied once, and answers line by line', async () => {
    const shop = connected();
    const limits = await shop.limits();
    const targetsOf = async () =>
      (await shop.structure()).rows.filter(({ entity, bid }) => entity === 'target' && bid !== null);
    const target = (await targetsOf()).find(({ status }) => status === 'enabled')!;
    const bid = Math.round((Number(target.bid) + limits.bid_step) * 100) / 100;
    const lines = [bidLine(target, bid, '1'), bidLine(target, limits.minimum_bid / 2, '2')];
    const key = crypto.randomUUID();
    const first = await shop.send(key, lines);
    expect(first.map(({ line_id, state }) => [line_id, state])).toEqual([
      ['1', 'applied'],
      ['2', 'refused'],
    ]);
    expect(first[1]!.message).toBeTruthy();
    expect(await shop.send(key, lines)).toEqual(first);
    const now = (await targetsOf()).find((row) => row.target_id === target.target_id)!;
    expect(Number(now.bid)).toBeCloseTo(bid, 6);
  });

  test('every field that it names can be changed, and its structure tells the new value', async () => {
    const shop = connected();
    const { today } = await shop.account();
    const { minimum_budget } = await shop.limits();
    const named = lineFields.filter(({ entity, name }) => shop.fieldName(entity, name) !== null);
    expect(named.length).toBeGreaterThan(0);
    expect(shop.fieldName('campaign', 'colour')).toBeNull();
    for (const { entity, name, kind, choices } of named) {
      const rowsNow = async () => (await shop.structure()).rows.filter((row) => row.entity === entity);
      const column = entity === 'campaign' && name === 'name' ? 'campaign' : name;
      if (name === 'lifetime_budget') await makeForLife(shop, `${Number(today.slice(0, 4)) + 1}-12-31`);
      if (name === 'rule') await makeCollection(shop);
      const isSet = kind === 'money' || kind === 'rule';
      const before = (await rowsNow()).find(
        (row) => (row.status === 'enabled' || row.status === undefined) && (!isSet || row[column] != null),
      )!;
      const isPlacement = entity === 'placement_modifier';
      const old = before[column] ?? null;
      const wanted: Record<typeof kind, string> = {
        money: String(Math.round((Math.max(Number(old), Number(minimum_budget)) + 0.01) * 100) / 100),
        percent: String(Number(old) + 1),
        day: `${Number(today.slice(0, 4)) + 5}-12-31`,
        status: choices?.[1] ?? 'archived',
        choice: choices?.find((one) => one !== old) ?? '',
        text: `Called otherwise ${today}`,
        schedule: 'sunday 0-23 70; monday 9-12 120',
        rule: '{"category":null,"brand":null,"price":[5,50],"rating":null,"discount":null,"inStock":true}',
      };
      const line: OutgoingLine = {
        line_id: `${entity}.${name}`,
        action: wanted[kind] === 'archived' ? 'archive' : 'update',
        entity,
        id: String(before[isPlacement ? 'campaign_id' : `${entity}_id`]),
        campaign_id: String(before.campaign_id),
        ad_group_id: before.ad_group_id == null ? null : String(before.ad_group_id),
        field: isPlacement ? String(before.placement) : shop.fieldName(entity, name)!,
        old_value: old === null ? null : String(old),
        new_value: wanted[kind],
        target_kind: null,
        match_type: null,
        expression: null,
      };
      const [answer] = await shop.send(crypto.randomUUID(), [line]);
      expect(answer, line.line_id).toMatchObject({ state: 'applied' });
      const idName = isPlacement ? 'placement' : `${entity}_id`;
      const now = (await rowsNow()).find(
        (row) => row[idName] === before[idName] && row.campaign_id === before.campaign_id,
      );
      expect(String(now?.[column]), line.line_id).toBe(wanted[kind]);
    }
  });

  test('a catalogue, where there is one, answers for the items and the category that are asked for', async () => {
    const shop = connected();
    if (!shop.catalogue || !shop.categories) return;
    const [category] = await shop.categories();
    const items = await shop.catalogue({ category: category!.category }, 5);
    expect(items.length).toBeGreaterThan(0);
    expect(new Set(items.map((one) => one.category))).toEqual(new Set([category!.category]));
    const codes = items.slice(0, 2).map((one) => one.item_code);
    const asked = await shop.catalogue({ item_codes: codes }, 10);
    expect(asked.map((one) => one.item_code).sort()).toEqual([...codes].sort());
    for (const { price, rating } of items) {
      expect(price).toBeGreaterThan(0);
      expect(rating === null || (rating >= 1 && rating <= 5)).toBe(true);
    }
  });

  test('a campaign is made with what stands in it by references of one batch; what stands on a refused one is refused', async () => {
    const shop = connected();
    const name = `Contract ${crypto.randomUUID().slice(0, 8)}`;
    const campaign = (id: string, temp_id: string) =>
      line(id, 'campaign', {
        temp_id,
        values: {
          name,
          kind: 'manual',
          status: 'paused',
          budget_kind: 'daily',
          budget: 10,
          strategy: 'fixed',
        },
      });
    const adGroup = (id: string, of: string) =>
      line(id, 'ad_group', {
        temp_id: `g${id}`,
        campaign_id: `new:${of}`,
        values: { name, default_bid: 0.5 },
      });
    const answers = await shop.send(crypto.randomUUID(), [
      campaign('1', 'c'),
      adGroup('2', 'c'),
      line('3', 'target', {
        ad_group_id: 'new:g2',
        target_kind: 'keyword',
        match_type: 'exact',
        expression: 'contract keyword',
        new_value: '0.5',
      }),
      campaign('4', 'again'),
      adGroup('5', 'again'),
    ]);
    expect(answers.map(({ state }) => state)).toEqual([
      'applied',
      'applied',
      'applied',
      'refused',
      'refused',
    ]);
    const { rows } = await shop.structure();
    const made = rows.filter((row) => row.campaign === name);
    expect(made.find(({ entity }) => entity === 'target')).toMatchObject({
      campaign_id: answers[0]!.id,
      ad_group_id: answers[1]!.id,
      target_id: answers[2]!.id,
    });
  });

  test('what cannot be reached is told in words, in time', async () => {
    await expect(unreachable().reachable()).rejects.toThrow();
    await expect(unreachable().account()).rejects.toThrow(/could not be reached/);
  });
}
