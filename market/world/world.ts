import { readFileSync } from 'node:fs';
import type { Sql } from 'postgres';
import type { Scenario } from '../scenario.ts';
import {
  Matcher,
  placements,
  type AdGroup,
  type Campaign,
  type Creative,
  type Negative,
  type Structure,
  type Target,
} from './account.ts';
import { Catalogue } from './catalogue.ts';
import { Advice } from './clearing.ts';
import { membersOf } from './collection.ts';
import { changedByHand } from './hands.ts';
import { LivingDay, type HalfDay, type Memory } from './day.ts';
import { makeDemand, rivalCode, type Demand } from './shoppers.ts';
import type { DayResult } from './sums.ts';

const schema = readFileSync(new URL('../schema.sql', import.meta.url), 'utf8');

const addDays = (day: string, count: number): string =>
  new Date(Date.parse(`${day}T00:00:00Z`) + count * 864e5).toISOString().slice(0, 10);

type Body =
  Campaign | AdGroup | Target | Negative | Creative | { id: string; name: string; dailyBudget: number };

/** The objects of a scenario, with ids of their own: settings, not figures. */
function found(scenario: Scenario): { kind: string; body: Body }[] {
  const objects: { kind: string; body: Body }[] = scenario.budgetGroups.map((body) => ({
    kind: 'budget_group',
    body,
  }));
  let number = 0;
  const next = (letter: string) => `${letter}${(++number + 10_000).toString()}`;
  for (const campaign of scenario.campaigns) {
    objects.push({
      kind: 'campaign',
      body: {
        id: campaign.id,
        name: campaign.name,
        kind: campaign.kind,
        budgetGroup: campaign.budgetGroup ?? null,
        dailyBudget: campaign.dailyBudget,
        strategy: campaign.strategy,
        startDate: campaign.startDate,
        endDate: campaign.endDate ?? null,
        status: campaign.status,
        modifiers: placements.map((name) => campaign.modifiers[name] ?? 0),
        schedule: campaign.schedule ?? '',
      },
    });
    for (const adGroup of campaign.adGroups) {
      const { id, name, defaultBid, skus } = adGroup;
      objects.push({
        kind: 'ad_group',
        body: { id, campaignId: campaign.id, name, defaultBid, skus, status: 'enabled' },
      });
      for (const { kind, matchType, expression, bid } of adGroup.targets) {
        const body: Target = {
          id: next('t'),
          adGroupId: id,
          kind,
          matchType: matchType ?? null,
          // Rival pages get their codes here: a scenario can only point at the i-th of a kind.
          expression: expression.replace(/^rival:(.+):(\d+)$/, (_, name: string, i: string) =>
            rivalCode(name, Number(i)),
          ),
          bid,
          status: 'enabled',
        };
        objects.push({ kind: 'target', body });
      }
      for (const { matchType, expression, scope } of adGroup.negatives) {
        const body: Negative = {
          id: next('n'),
          campaignId: campaign.id,
          adGroupId: scope === 'ad_group' ? id : null,
          matchType,
          expression,
          status: 'enabled',
        };
        objects.push({ kind: 'negative', body });
      }
    }
  }
  return objects;
}

/** A collection with what it holds from today on. */
interface Turned {
  adGroup: AdGroup;
  skus: string[];
}

/** The settings with what the morning changed. */
function withChanges(
  structure: Structure,
  collections: readonly Turned[],
  hands: readonly Target[],
): Structure {
  const adGroups = collections.map(({ adGroup, skus }) => [adGroup.id, { ...adGroup, skus }] as const);
  return {
    ...structure,
    adGroups: new Map([...structure.adGroups, ...adGroups]),
    targets: new Map([...structure.targets, ...hands.map((target) => [target.id, target] as const)]),
  };
}

/** The whole marketplace as it stands: opened from its database, advanced by hours. */
export class World {
  private matcher: Matcher | null = null;
  readonly catalogue: Catalogue;
  readonly productIndex: ReadonlyMap<string, number>;

  private constructor(
    readonly sql: Sql,
    readonly scenario: Scenario,
    readonly demand: Demand,
    readonly structure: Structure,
    public memory: Memory,
    public today: string | null,
    /** The rest of today is still to come when it is not null. */
    private half: HalfDay | null,
  ) {
    this.catalogue = new Catalogue(scenario, demand);
    this.catalogue.turnTo(today ?? scenario.account.firstDay, memory.stock);
    this.productIndex = new Map(scenario.products.map(({ sku }, p) => [sku, p]));
  }

  /** Opens the world in this database, or makes it from the scenario when the database is empty. */
  static async open(sql: Sql, scenario: Scenario | null): Promise<World> {
    await sql.unsafe(schema);
    const [row] = await sql<
      {
        scenario: Scenario;
        today: string | null;
        version: number;
        memory: Memory | null;
        half: HalfDay | null;
      }[]
    >`
      select scenario, today::text as today, version, memory, half from world`;
    if (!row) {
      if (!scenario) throw new Error('This Quayside has no world yet: start it with a scenario.');
      await sql.begin(async (tx) => {
        await tx`insert into world (scenario) values (${tx.json(scenario as never)})`;
        const rows = found(scenario).map(({ kind, body }) => ({
          kind,
          id: body.id,
          body: tx.json(body as never),
        }));
        for (let i = 0; i < rows.length; i += 1000) {
          await tx`insert into object ${tx(rows.slice(i, i + 1000))}`;
        }
      });
      return World.open(sql, null);
    }
    const objects = await sql<
      { kind: string; body: Body }[]
    >`select kind, body from object order by kind, id`;
    const of = <T extends Body>(kind: string) =>
      new Map(objects.filter((object) => object.kind === kind).map(({ body }) => [body.id, body as T]));
    const structure: Structure = {
      version: row.version,
      budgetGroups: [...of<Structure['budgetGroups'][number]>('budget_group').values()],
      campaigns: of<Campaign>('campaign'),
      adGroups: of<AdGroup>('ad_group'),
      targets: of<Target>('target'),
      negatives: of<Negative>('negative'),
      creatives: of<Creative>('creative'),
    };
    const memory = row.memory ?? {
      stock: row.scenario.products.map((product) => product.stock),
      listed: row.scenario.products.map(() => true),
      rivalDrift: row.scenario.concepts.map(() => 0),
      organic: {},
      wallet: row.scenario.account.wallet ?? null,
    };
    return new World(sql, row.scenario, makeDemand(row.scenario), structure, memory, row.today, row.half);
  }

  stockOf(sku: string): number {
    return Math.max(0, this.memory.stock[this.productIndex.get(sku)!]!);
  }

  /** Puts prepaid money in; what there is by now. */
  async topUp(amount: number): Promise<number> {
    const wallet = Math.round(((this.memory.wallet ?? 0) + amount) * 100) / 100;
    await this.sql`update world set memory = ${this.sql.json({ ...this.memory, wallet } as never)}`;
    this.memory = { ...this.memory, wallet };
    return wallet;
  }

  /** What the marketplace advises as its auctions stand today. */
  advice(): Advice {
    const { scenario, demand, memory, catalogue } = this;
    return new Advice(scenario, demand, memory.rivalDrift, (code) => catalogue.item(code));
  }

  /** Called after settings changed: the next day is matched anew. */
  restructured(): void {
    this.matcher = null;
  }

  /** Hours of today that have been lived, 1 to 24; 0 before the first day. */
  get hour(): number {
    return this.half?.hours ?? (this.today === null ? 0 : 24);
  }

  /**
   * Lives so many hours, and keeps what happened up to each midnight and to the last hour, each stretch all or nothing.
   * Settings that change between two calls count from there on.
   */
  async advance(hours = 24): Promise<void> {
    for (let left = hours; left > 0;) {
      const stretch = Math.min(left, 24 - (this.half?.hours ?? 0));
      await this.live(stretch);
      left -= stretch;
    }
  }

  private async live(hours: number): Promise<void> {
    const memory = structuredClone(this.memory);
    const { scenario, demand, catalogue } = this;
    let collections: Turned[] = [];
    let hands: Target[] = [];
    let { structure } = this;
    let day = this.today ?? scenario.account.firstDay;
    if (!this.half) {
      if (this.today !== null) day = addDays(day, 1);
      catalogue.turnTo(day, memory.stock);
      collections = this.turnCollections();
      hands = changedByHand(scenario, structure, day);
      if (collections.length + hands.length > 0) {
        structure = withChanges(structure, collections, hands);
        this.matcher = null;
      }
    }
    this.matcher ??= new Matcher(structure, this.productIndex, catalogue);
    if (!this.half) this.matcher.newDay();
    const setting = { scenario, demand, structure, matcher: this.matcher, catalogue };
    const living = this.half
      ? LivingDay.resume(setting, memory, structuredClone(this.half))
      : LivingDay.begin(setting, memory, day);
    for (let hour = 0; hour < hours; hour++) living.liveHour();
    const paused = living.hours < 24 ? living.pause() : null;
    const half = paused?.half ?? null;
    try {
      await this.keep(day, paused?.result ?? living.close(), memory, { collections, hands, half });
    } catch (error) {
      // What the morning changed was not kept: it is matched as before.
      this.matcher = null;
      throw error;
    }
    for (const { adGroup, skus } of collections)
      this.structure.adGroups.set(adGroup.id, { ...adGroup, skus });
    for (const target of hands) this.structure.targets.set(target.id, target);
    if (hands.length > 0) this.structure.version++;
    this.memory = memory;
    this.today = day;
    this.half = half;
  }

  /** Ad groups whose rule matches other products than the day before; they show those from now on. */
  private turnCollections(): Turned[] {
    const turned: Turned[] = [];
    for (const adGroup of this.structure.adGroups.values()) {
      if (!adGroup.rule || adGroup.status === 'archived') continue;
      const skus = membersOf(adGroup.rule, this.catalogue.all);
      if (skus.join('\t') === adGroup.skus.join('\t')) continue;
      turned.push({ adGroup, skus });
    }
    return turned;
  }

  private async keep(
    day: string,
    result: DayResult,
    memory: Memory,
    { collections: turned, hands, half }: { collections: Turned[]; hands: Target[]; half: HalfDay | null },
  ): Promise<void> {
    // Terms without a click are reported as part of their target only.
    const ads = new Map<string, Record<string, unknown> & { impressions: number }>();
    for (const ad of result.ads) {
      const term = ad.clicks > 0 ? ad.term : '';
      const key = `${ad.targetId}\t${term}\t${ad.placement}`;
      const known = ads.get(key);
      if (known) known.impressions += ad.impressions;
      else {
        const { targetId, placement, impressions, clicks, spend } = ad;
        ads.set(key, { day, target_id: targetId, term, placement, impressions, clicks, spend });
      }
    }
    const orders = result.orders.map((order) => ({
      day,
      hour: order.hour,
      target_id: order.targetId,
      term: order.term,
      placement: order.placement,
      sku: order.sku,
      units: order.units,
      sales: order.sales,
      known_on: addDays(day, order.delay),
      ad_group_id: order.shown?.adGroupId ?? null,
      picture: order.shown?.picture ?? null,
      title: order.shown?.title ?? null,
    }));
    const creatives = result.creatives.map(({ adGroupId, ...rest }) => ({
      day,
      ad_group_id: adGroupId,
      ...rest,
    }));
    const moves = turned.flatMap(({ adGroup, skus }) =>
      [
        ...skus.filter((sku) => !adGroup.skus.includes(sku)).map((sku) => ({ sku, change: 'joined' })),
        ...adGroup.skus.filter((sku) => !skus.includes(sku)).map((sku) => ({ sku, change: 'left' })),
      ].map((move) => ({ day, ad_group_id: adGroup.id, ...move })),
    );
    const hours = result.hours.map(({ campaignId, ...rest }) => ({ day, campaign_id: campaignId, ...rest }));
    const products = result.products.map((sum) => ({
      day,
      sku: sum.sku,
      sessions: sum.sessions,
      organic_orders: sum.organicOrders,
      organic_units: sum.organicUnits,
      organic_sales: sum.organicSales,
    }));
    const ranks = result.ranks.map((rank) => ({
      day,
      sku: rank.sku,
      keyword: rank.keyword,
      organic_rank: rank.organicRank,
      sponsored_rank: rank.sponsoredRank,
      search_volume: rank.searchVolume,
    }));
    const isBegun = this.half !== null;
    await this.sql.begin(async (tx) => {
      for (const [table, rows] of [
        ['ad_day', [...ads.values()]],
        ['ad_order', orders],
        ['campaign_hour', hours],
        ['product_day', products],
        ['creative_day', creatives],
        ['collection_day', moves],
        ['rank_day', ranks],
      ] as const) {
        // What the day's earlier hours left is told anew; who joined a collection, at the day's beginning only.
        if (isBegun && table !== 'collection_day') await tx`delete from ${tx(table)} where day = ${day}`;
        for (let i = 0; i < rows.length; i += 2000) {
          await tx`insert into ${tx(table)} ${tx(rows.slice(i, i + 2000) as never[])}`;
        }
      }
      for (const { adGroup, skus } of turned)
        await tx`
          update object set body = ${tx.json({ ...adGroup, skus } as never)}
          where kind = 'ad_group' and id = ${adGroup.id}`;
      for (const target of hands)
        await tx`update object set body = ${tx.json(target as never)} where kind = 'target' and id = ${target.id}`;
      if (hands.length > 0) await tx`update world set version = version + 1`;
      const rest = half && tx.json(half as never);
      await tx`update world set today = ${day}, memory = ${tx.json(memory as never)}, half = ${rest}`;
    });
  }
}
