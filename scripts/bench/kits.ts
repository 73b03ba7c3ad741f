import { randomUUID } from 'node:crypto';
import type { KitAnswer } from '../../src/answers/kits.ts';
import { context, evidence, limits } from '../../src/core/kits/kit.fixture.ts';
import {
  checkerOf,
  noSuggestions,
  planKits,
  usualKit,
  type KitBody,
  type ProductGrounds,
} from '../../src/core/kits/kit.ts';
import { partKinds, shippedRecipes, type Part, type PartKind } from '../../src/core/kits/recipe.ts';
import { planTotals } from '../../src/core/kits/plan.ts';
import { normalise } from '../../src/core/text/normalise.ts';
import { callApi } from '../lib/processes.ts';
import type { Measure } from './measure.ts';

const products = 50;
const keywords = 200;
const runs = 7;

/** The middle of several timings, ms. */
function timed(work: () => unknown): number {
  const times = Array.from({ length: runs }, () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  });
  return times.sort((a, b) => a - b)[Math.floor(runs / 2)]!;
}

const texts = (count: number, of: string) =>
  Array.from({ length: count }, (_, i) => `${of} lids number ${i} for wide jars`);

const bodyOf = (more: Partial<KitBody>): KitBody => ({
  ...usualKit,
  name: 'Large',
  recipe: shippedRecipes[0]!,
  budget: 100_000_000,
  startPaused: true,
  completes: false,
  excluded: ['canning'],
  ...more,
});

const ofKinds = <T>(value: T) =>
  Object.fromEntries(partKinds.map((kind) => [kind, value])) as Record<PartKind, T>;

const groundsOf = (sku: string): ProductGrounds => ({
  sku,
  itemCode: 'QY2AAAAA',
  title: 'Airlock lids for wide jars',
  page: { category: 'lids', price: 18_900_000, rating: 4.3 },
  code: sku,
  stock: 10,
  profit: 9_000_000,
  running: [],
  shows: {},
  season: null,
  theta: 0.5,
  evidence: ofKinds(evidence),
  floor: null,
  ceiling: null,
  served: texts(60, 'served').map((text) => ({ text, matchType: 'exact', adGroup: 'Lids exact' })),
  alike: [],
  proven: texts(200, 'proven').map((text) => ({ text, orders: 3, clicks: 20, spend: 1e6, sales: 9e6 })),
});

/** A kit of 50 products with 200 keywords each: planned, and its keywords checked while one is typed. */
export function planLargeKit(): Measure[] {
  const skus = Array.from({ length: products }, (_, i) => `SKU-${i}`);
  const list = texts(keywords, 'own').map((text) => ({ text, bid: null }));
  const body = bodyOf({ skus, keywords: list });
  const about = context();
  const kitLimits = {
    ...limits,
    itemCode: about.itemCode,
    minimumBudget: about.minimumBudget,
    minimumBid: 30_000,
    maximumBid: 60_000_000,
    bidStep: 10_000,
    leastCpc: { ...about.leastCpc },
    targetsPerAdGroup: 1000,
    negativesPerAdGroup: 1000,
    nameCharacters: 120,
    creatives: about.creatives,
  };
  const known = new Map(skus.map((sku) => [sku, { grounds: groundsOf(sku), suggestions: noSuggestions }]));
  const ground = { today: null, limits: kitLimits, taken: [], lists: [], ownPages: [], products: known };
  const plan = () => {
    const checks = new Map(
      [...known].map(([sku, { grounds }]) => [
        sku,
        checkerOf(grounds, kitLimits).check(
          list.map(({ text }) => text),
          body.excluded,
        ),
      ]),
    );
    return planKits(body, ground, (sku) => checks.get(sku)!);
  };
  const plans = plan();
  const made = plans
    .map(planTotals)
    .reduce((sum, one) => sum + one.campaigns + one.targets + one.negatives, 0);
  const planned = timed(plan);
  const written = timed(() => JSON.stringify(plans));

  const many = texts(10_000, 'typed');
  const checker = checkerOf(groundsOf('SKU-0'), kitLimits);
  checker.check(many, body.excluded);
  let key = 0;
  const typed = timed(() => checker.check([...many, `typed word ${key++}`], body.excluded));
  const read = timed(() => many.map(normalise));
  return [
    {
      name: 'kit-plan',
      value: planned,
      unit: `ms, ${products} products with ${keywords} keywords: ${made} objects`,
      reference: `writing them as JSON (${written.toFixed(0)} ms)`,
      ratio: planned / written,
      aim: 'under 2000 ms',
    },
    {
      name: 'kit-keystroke',
      value: typed,
      unit: 'ms, 10,000 keywords checked after one more',
      reference: `parting them into words (${read.toFixed(0)} ms)`,
      ratio: typed / read,
      aim: 'under 50 ms',
    },
  ];
}

/** 320 campaigns with 10,000 keywords put onto the sheet of the demo account. */
export async function largeKitOnSheet(url: string): Promise<Measure> {
  const [, , , exact] = shippedRecipes[0]!.parts;
  const parts = Array.from({ length: 40 }, (_, i): Part => ({ ...exact!, name: `exact ${i}` }));
  const desk = await callApi<{ products: { sku: string }[] }>(url, 'GET', '/api/1/kits/desk');
  const body = bodyOf({
    skus: desk.products.map(({ sku }) => sku),
    recipe: { name: 'Forty', pattern: '{code} bench {part}', parts },
    keywords: texts(32, 'sheet').map((text) => ({ text, bid: null })),
  });
  const kit = await callApi<KitAnswer>(url, 'POST', '/api/1/kits', { kitId: randomUUID(), body });
  // The bench page has read its products before anything is put down.
  for (const sku of body.skus) await callApi(url, 'GET', `/api/1/kits/grounds?sku=${sku}`);
  const start = performance.now();
  const { groups, lines } = await callApi<{ groups: string[]; lines: number }>(
    url,
    'POST',
    `/api/1/kits/${kit.kitId}/sheet`,
    { version: 1 },
  );
  const taken = performance.now() - start;
  await callApi(url, 'POST', '/api/1/sheet/undo', { groups });
  return {
    name: 'kit-sheet',
    value: taken / 1000,
    unit: `s, ${lines} lines of ${40 * body.skus.length} campaigns put onto the sheet`,
    reference: 'nothing',
    ratio: null,
    aim: 'under 3 s',
  };
}
