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

export type { Structure };
export { hourConversion, weekdayConversion } from '../market/world/rhythm.ts';

/** What a week is expected to bring at Quayside as its campaigns stand, luck averaged out: its hidden truth. */
export interface TrueWeek {
  clicks: number;
  spend: number;
  orders: number;
  sales: number;
}

/** Weeks that are lived over again and averaged. */
const usualLives = 12;

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

/** What is tried: how many lives, and what is changed before them. */
export interface Trial {
  lives?: number;
  change?: (structure: Structure) => void;
  /** Hears the clicks of each target of a day. */
  heard?: (targetId: string, clicks: number, structure: Structure) => void;
}

/**
 * The week after today, lived several times over from where the marketplace stands: same campaigns, budgets and rivals,
 * other shoppers, the same ones in each trial. Stock does not run out meanwhile. Nothing is kept.
 */
export async function trueWeeks(
  sql: Sql,
  { lives = usualLives, change, heard }: Trial = {},
): Promise<TrueWeek[]> {
  const [world] = await sql<{ scenario: Scenario; today: string; version: number; memory: Memory }[]>`
    select scenario, today::text as today, version, memory from world`;
  const rows = await sql<Row[]>`select kind, id, body from object order by kind, id`;
  const { scenario, today, version, memory } = world!;
  const structure = structureOf(rows, version);
  change?.(structure);
  const demand = makeDemand(scenario);
  const catalogue = new Catalogue(scenario, demand);
  const products = new Map(scenario.products.map(({ sku }, i) => [sku, i]));
  const matcher = new Matcher(structure, products, catalogue);
  const weeks: TrueWeek[] = [];
  for (let life = 0; life < lives; life++) {
    const week: TrueWeek = { clicks: 0, spend: 0, orders: 0, sales: 0 };
    for (let ahead = 1; ahead <= 7; ahead++) {
      const day = new Date(Date.parse(`${today}T00:00:00Z`) + ahead * 864e5).toISOString().slice(0, 10);
      const left = structuredClone(memory);
      left.stock = left.stock.map((_, product) => (left.listed[product] ? 1e6 : 0));
      const seed = life * 100 + ahead;
      catalogue.turnTo(day, left.stock);
      matcher.newDay();
      const other = { ...scenario, seed };
      const { ads, orders } = liveDay({ scenario: other, demand, structure, matcher, catalogue }, left, day);
      for (const { targetId, clicks, spend } of ads) {
        heard?.(targetId, clicks, structure);
        week.clicks += clicks;
        week.spend += spend;
      }
      for (const { sales } of orders) {
        week.orders++;
        week.sales += sales;
      }
      // All of it takes seconds: connections that a server closes meanwhile are heard after each day.
      await new Promise((resolve) => setTimeout(resolve, 10));
    }
    weeks.push(week);
  }
  return weeks;
}

/** The mean of such weeks. */
export async function trueWeek(sql: Sql): Promise<TrueWeek> {
  const weeks = await trueWeeks(sql);
  const mean = (name: keyof TrueWeek) => weeks.reduce((sum, week) => sum + week[name], 0) / weeks.length;
  return { clicks: mean('clicks'), spend: mean('spend'), orders: mean('orders'), sales: mean('sales') };
}
