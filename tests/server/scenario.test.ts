import { parse } from 'csv-parse/sync';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { startQuayside, type Running } from '../../scripts/lib/processes.ts';
import { callQuayside, makeDatabase, reportText, structureOf } from '../support/stack.ts';

/** Looks for the situations of the scenario in reports and structure alone, as a specialist would. */

type Line = Record<string, string>;
interface Sums {
  clicks: number;
  spend: number;
  orders: number;
  sales: number;
  impressions: number;
}

let quayside: Running;
let terms: Line[];
let targets: Line[];
let placements: Line[];
let hours: Line[];
let structure: Record<string, string | number | null>[];
let products: { sku: string; stock: number; price: number }[];

const report = async (kind: string) =>
  parse(await reportText(quayside.url, kind, '2026-08-24', '2026-11-21'), { columns: true }) as Line[];

beforeAll(async () => {
  quayside = await startQuayside({
    databaseUrl: await makeDatabase('quayside_seed'),
    scenario: process.env.MOWING_TEST_SCENARIO!,
    days: 0,
    env: { QUAYSIDE_RATE: '2000' },
  });
  terms = await report('terms-daily');
  targets = await report('targets-daily');
  placements = await report('placements-daily');
  hours = await report('campaign-hours');
  structure = await structureOf(quayside.url);
  products = (await callQuayside<{ items: typeof products }>(quayside.url, 'GET', '/products')).items;
});
afterAll(() => quayside.stop());

function group(rows: Line[], key: (row: Line) => string): Map<string, Sums> {
  const sums = new Map<string, Sums>();
  for (const row of rows) {
    const name = key(row);
    const sum = sums.get(name) ?? { clicks: 0, spend: 0, orders: 0, sales: 0, impressions: 0 };
    for (const figure of Object.keys(sum) as (keyof Sums)[]) sum[figure] += Number(row[figure]);
    sums.set(name, sum);
  }
  return sums;
}

const acos = ({ spend, sales }: Sums) => (sales > 0 ? spend / sales : Infinity);
const exact = () => structure.filter((row) => row.entity === 'target' && row.match_type === 'exact');
const skuOf = () =>
  new Map(structure.filter((row) => row.entity === 'product_ad').map((row) => [row.ad_group_id, row.sku]));

/** Each situation: its name and the finding that proves it, or null. */
const situations: Record<string, () => unknown> = {
  'proven terms nobody harvested': () => {
    const bidOn = new Set(exact().map((row) => row.expression));
    const proven = [
      ...group(
        terms.filter((row) => row.target_kind !== 'item'),
        (row) => row.term!,
      ),
    ].filter(([term, sums]) => !bidOn.has(term) && sums.orders >= 4 && acos(sums) < 0.2);
    return proven.length >= 10;
  },
  'a word that wastes money across a hundred terms': () => {
    const canning = terms.filter((row) => / ?canning ?/.test(row.term!));
    const [sums] = [...group(canning, () => 'all').values()];
    return (
      sums && sums.spend > 500 && acos(sums) > 0.8 && new Set(canning.map((row) => row.term)).size >= 100
    );
  },
  'a term that sells in three campaigns at once': () => {
    const selling = [...group(terms, (row) => `${row.term}\t${row.campaign}`)].filter(
      ([, sums]) => sums.orders >= 2,
    );
    const campaigns = new Map<string, number>();
    for (const [key] of selling)
      campaigns.set(key.split('\t')[0]!, (campaigns.get(key.split('\t')[0]!) ?? 0) + 1);
    return [...campaigns.values()].some((count) => count >= 3);
  },
  'a negative that blocks the account’s own best keyword': () => {
    const caught = group(terms, (row) => `${row.ad_group_id}\t${row.term}`);
    const sold = group(terms, (row) => row.term!);
    return exact().some((row) => {
      const blocked = structure.some(
        (negative) =>
          negative.entity === 'negative' &&
          negative.ad_group_id === row.ad_group_id &&
          String(row.expression).includes(String(negative.expression)),
      );
      return (
        blocked &&
        !caught.has(`${row.ad_group_id}\t${row.expression}`) &&
        (sold.get(String(row.expression))?.orders ?? 0) >= 5
      );
    });
  },
  'an over-bid hero keyword': () => {
    const sums = group(targets, (row) => row.target_id!);
    const usual = exact()
      .map((row) => Number(row.bid))
      .sort((a, b) => a - b)[Math.floor(exact().length / 2)]!;
    return exact().some((row) => {
      const sum = sums.get(String(row.target_id));
      return Number(row.bid) > 3 * usual && sum !== undefined && sum.clicks > 200 && acos(sum) > 0.3;
    });
  },
  'a quiet exact keyword with a bid too low to show': () => {
    const shown = group(targets, (row) => row.target_id!);
    return exact().some(
      (row) => Number(row.bid) < 0.08 && (shown.get(String(row.target_id))?.impressions ?? 0) === 0,
    );
  },
  'out of budget by the afternoon at half the target': () => outOfBudget((value) => value < 0.15),
  'out of budget at well over the target': () => outOfBudget((value) => value > 0.36),
  'product pages convert at half of search, and one product the other way round': () => {
    const skus = skuOf();
    const campaignSku = new Map(
      structure
        .filter((row) => row.entity === 'ad_group')
        .map((row) => [row.campaign_id, skus.get(row.ad_group_id!)]),
    );
    const sums = group(placements, (row) => `${campaignSku.get(row.campaign_id!)}\t${row.placement}`);
    const ratio = (sku: string) => {
      const [pages, top] = ['product_pages', 'top_of_search'].map((name) => sums.get(`${sku}\t${name}`));
      return pages && top ? pages.orders / pages.clicks / (top.orders / top.clicks) : 1;
    };
    const ratios = products.map(({ sku }) => ratio(sku));
    return ratios.filter((value) => value < 0.7).length >= 4 && ratios.some((value) => value > 1);
  },
  'weak Sundays': () => {
    const days = group(targets, (row) => String(new Date(`${row.date}T00:00:00Z`).getUTCDay()));
    const rate = ({ orders, clicks }: Sums) => orders / clicks;
    return [1, 2, 3, 4].every((day) => rate(days.get('0')!) < 0.75 * rate(days.get(String(day))!));
  },
  'a keyword lucky with few clicks': () =>
    [
      ...group(
        targets.filter((row) => row.target_kind === 'keyword'),
        (row) => row.target_id!,
      ).values(),
    ].some((sums) => sums.orders >= 3 && sums.clicks <= 12),
  'item codes among the terms of automatic campaigns': () =>
    terms.filter((row) => row.campaign_kind === 'automatic' && /^QY[0-9A-Z]{6}$/.test(row.term!)).length >
    100,
  'a product out of stock that still gets clicks': () => {
    const gone = new Set(products.filter(({ stock }) => stock === 0).map(({ sku }) => sku));
    const skus = skuOf();
    const rows = targets.filter((row) => gone.has(String(skus.get(row.ad_group_id!))));
    const days = [...group(rows, (row) => row.date!)]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .filter(([, sums]) => sums.clicks > 0);
    const last = days.slice(-5).map(([, sums]) => sums);
    const sum = (figure: 'clicks' | 'orders') => last.reduce((total, sums) => total + sums[figure], 0);
    // Some who click buy another of the seller's products.
    return sum('clicks') >= 50 && sum('orders') <= 5;
  },
  'a campaign left without an end date after a season': () =>
    structure.some(
      (row) =>
        row.entity === 'campaign' &&
        /summer/i.test(String(row.campaign)) &&
        row.end_date === null &&
        row.status === 'enabled',
    ),
};

/** A campaign without budget at four in the afternoon on most days, with an ACOS that fits. */
function outOfBudget(fits: (acos: number) => boolean): boolean {
  const out = new Map<string, number>();
  for (const row of hours) {
    if (row.hour === '16' && Number(row.minutes_in_budget) < 60)
      out.set(row.campaign_id!, (out.get(row.campaign_id!) ?? 0) + 1);
  }
  const sums = group(targets, (row) => row.campaign_id!);
  return [...out].some(([id, days]) => days > 50 && fits(acos(sums.get(id)!)));
}

test('the situations of the scenario stand in the reports', () => {
  const found = Object.entries(situations)
    .filter(([, look]) => look())
    .map(([name]) => name);
  const missing = Object.keys(situations).filter((name) => !found.includes(name));
  console.log(`found ${found.length}: ${found.join('; ')}\nnot found: ${missing.join('; ') || 'none'}`);
  expect(found.length).toBeGreaterThanOrEqual(12);
});

test('the account is of the size the scenario names', () => {
  const of = (entity: string) => structure.filter((row) => row.entity === entity).length;
  expect(of('campaign')).toBeGreaterThanOrEqual(40);
  expect(of('target')).toBeGreaterThan(1000);
  expect(new Set(terms.map((row) => row.term)).size).toBeGreaterThan(9000);
});
