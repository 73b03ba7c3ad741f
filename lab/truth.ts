import type { Sql } from 'postgres';
import {
  Matcher,
  type AdGroup,
  type Campaign,
  type Creative,
  type Negative,
  type Structure,
  type Target,
} from '../market/world/account.ts';
import { Catalogue } from '../market/world/catalogue.ts';
import { liveDay, type Memory } from '../market/world/day.ts';
import { makeDemand } from '../market/world/shoppers.ts';
import type { Scenario } from '../market/scenario.ts';

/** What a week is expected to bring at Quayside as its campaigns stand, luck averaged out: its hidden truth. */
export interface TrueWeek {
  clicks: number;
  spend: number;
  orders: number;
  sales: number;
}

/** Weeks that are lived over again and averaged. */
const lives = 12;

interface Row {
  kind: string;
  id: string;
  body: object;
}

function structureOf(rows: readonly Row[], version: number): Structure {
  const of = <T>(kind: string) =>
    new Map(rows.filter((row) => row.kind === kind).map(({ id, body }) => [id, body as T]));
  return {
    version,
    budgetGroups: [...of<Structure['budgetGroups'][number]>('budget_group').values()],
    campaigns: of<Campaign>('campaign'),
    adGroups: of<AdGroup>('ad_group'),
    targets: of<Target>('target'),
    negatives: of<Negative>('negative'),
    creatives: of<Creative>('creative'),
  };
}

/**
 * The week after today, lived several times over from where the marketplace stands: same campaigns, budgets and rivals,
 * other shoppers. Stock does not run out meanwhile. Nothing is kept.
 */
export async function trueWeek(sql: Sql): Promise<TrueWeek> {
  const [world] = await sql<{ scenario: Scenario; today: string; version: number; memory: Memory }[]>`
    select scenario, today::text as today, version, memory from world`;
  const rows = await sql<Row[]>`select kind, id, body from object order by kind, id`;
  const { scenario, today, version, memory } = world!;
  const structure = structureOf(rows, version);
  const demand = makeDemand(scenario);
  const catalogue = new Catalogue(scenario, demand);
  const products = new Map(scenario.products.map(({ sku }, i) => [sku, i]));
  const matcher = new Matcher(structure, products, catalogue);
  const week: TrueWeek = { clicks: 0, spend: 0, orders: 0, sales: 0 };
  for (let life = 0; life < lives; life++) {
    for (let ahead = 1; ahead <= 7; ahead++) {
      const day = new Date(Date.parse(`${today}T00:00:00Z`) + ahead * 864e5).toISOString().slice(0, 10);
      const left = structuredClone(memory);
      left.stock = left.stock.map((_, product) => (left.listed[product] ? 1e6 : 0));
      const seed = life * 100 + ahead;
      catalogue.turnTo(day, left.stock);
      matcher.newDay();
      const other = { ...scenario, seed };
      const { ads, orders } = liveDay({ scenario: other, demand, structure, matcher, catalogue }, left, day);
      for (const { clicks, spend } of ads) {
        week.clicks += clicks / lives;
        week.spend += spend / lives;
      }
      for (const { sales } of orders) {
        week.orders += 1 / lives;
        week.sales += sales / lives;
      }
      // All of it takes seconds: connections that a server closes meanwhile are heard after each day.
      await new Promise((resolve) => setTimeout(resolve, 10));
    }
  }
  return week;
}
