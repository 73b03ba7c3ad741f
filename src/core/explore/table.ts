import { posterior, priorOf, addSibling, noMoments, valuePerOrder, type Prior } from '../evidence/prior.ts';
import {
  acosInterval,
  clicksForAnOrder,
  probabilityOver,
  verdictOf,
  type AcosInterval,
  type Belief,
  type Verdict,
} from '../evidence/verdict.ts';
import { daysBetween, type Day } from '../metrics/days.ts';
import {
  acos,
  adProfit,
  averageOrderValue,
  costPerOrder,
  cpc,
  ctr,
  cvr,
  gainAgainstTarget,
  revenuePerClick,
  roas,
  tacos,
  type Sums,
} from '../metrics/figures.ts';
import { Goals } from '../round/goals.ts';
import { Pool } from '../round/pooling.ts';
import type { AdGroupInfo, Goal, ProductInfo } from '../round/types.ts';
import type { Step, Within } from './answers.ts';
import { readColumn, type Level } from './columns.ts';
import { compile, ConditionError, type Condition, type Reader, type Value } from './conditions.ts';
import { blockedReader, servedReader } from './relations.ts';
import {
  emptySums,
  SumsColumns,
  type EvidenceColumns,
  type FrameSums,
  type Objects,
  type Pairs,
} from './store.ts';

export interface TableQuery {
  level: Level;
  within: Within | null;
  where: Condition | null;
  /** A column; null: as the objects stand. */
  sort: string | null;
  descending: boolean;
}

/** What the table reads: objects, goals, and for each frame its sums. `before`, `d14` ...: see columns.ts. */
export interface TableData {
  today: Day;
  objects: Objects;
  pairs: Pairs | null;
  goals: readonly Goal[];
  frames: ReadonlyMap<string, FrameSums>;
  evidence: {
    targets: EvidenceColumns;
    pairs: EvidenceColumns | null;
    placements: EvidenceColumns | null;
  } | null;
}

const ratios: Record<string, (sums: Sums) => number | null> = {
  ctr,
  cpc,
  cvr,
  rpc: revenuePerClick,
  aov: averageOrderValue,
  cpa: costPerOrder,
  roas,
  acos,
};
const sumNames = ['impressions', 'clicks', 'spend', 'orders', 'units', 'sales'] as const;
type SumName = (typeof sumNames)[number];
const isSum = (name: string): name is SumName => (sumNames as readonly string[]).includes(name);

/** Rows that match, in their order, by place in the level. */
export type Rows = Int32Array;

/** The whole account as tables, one a level: reads, tests, sorts and sums rows. No table holds a ratio of ratios. */
export class AccountTable {
  private readonly goals: Goals;
  private readonly groups = new Map<string, Int32Array>();
  private readonly sums = new Map<string, SumsColumns>();
  private readonly readers = new Map<string, (row: number) => Value>();
  private readonly productAt: Map<string, number>;
  private readonly budgetGroupAt: Map<string, number>;
  private readonly skuOfCampaign: (string | null)[];
  private readonly beliefsByLevel = new Map<Level, (row: number) => Belief & { prior: Prior }>();

  constructor(private readonly data: TableData) {
    const { objects } = data;
    this.goals = new Goals(data.goals);
    this.productAt = new Map(objects.products.map(({ sku }, i) => [sku, i]));
    this.budgetGroupAt = new Map(objects.budgetGroups.map(({ id }, i) => [id, i]));
    this.skuOfCampaign = objects.campaigns.map(() => null);
    for (const { campaign, sku } of objects.adGroups) this.skuOfCampaign[campaign] ??= sku;
  }

  count(level: Level): number {
    const { objects, pairs } = this.data;
    switch (level) {
      case 'account':
        return 1;
      case 'terms':
        return pairs?.target.length ?? 0;
      case 'budget_groups':
        return objects.budgetGroups.length;
      case 'ad_groups':
        return objects.adGroups.length;
      default:
        return objects[level].length;
    }
  }

  /** The id of a row: of its object; of a term the target that caught it and its number. */
  key(level: Level, row: number): string {
    const { objects, pairs } = this.data;
    switch (level) {
      case 'account':
        return 'account';
      case 'budget_groups':
        return objects.budgetGroups[row]!.id;
      case 'products':
        return objects.products[row]!.sku;
      case 'campaigns':
        return objects.campaigns[row]!.id;
      case 'ad_groups':
        return objects.adGroups[row]!.id;
      case 'targets':
        return objects.targets[row]!.id;
      case 'negatives':
        return objects.negatives[row]!.id;
      case 'placements': {
        const { campaign, placement } = objects.placements[row]!;
        return `${objects.campaigns[campaign]!.id}:${placement}`;
      }
      case 'terms':
        return `${objects.targets[pairs!.target[row]!]!.id}:${pairs!.term[row]!}`;
    }
  }

  /** Places of the row's parents; -1 where there is none. */
  targetOf(level: Level, row: number): number {
    return level === 'targets' ? row : level === 'terms' ? this.data.pairs!.target[row]! : -1;
  }

  adGroupOf(level: Level, row: number): number {
    if (level === 'ad_groups') return row;
    if (level === 'negatives') return this.data.objects.negatives[row]!.adGroup ?? -1;
    const target = this.targetOf(level, row);
    return target < 0 ? -1 : this.data.objects.targets[target]!.adGroup;
  }

  campaignOf(level: Level, row: number): number {
    const { objects } = this.data;
    if (level === 'campaigns') return row;
    if (level === 'placements') return objects.placements[row]!.campaign;
    if (level === 'negatives') return objects.negatives[row]!.campaign;
    const adGroup = this.adGroupOf(level, row);
    return adGroup < 0 ? -1 : objects.adGroups[adGroup]!.campaign;
  }

  private skuOf(level: Level, row: number): string | null {
    if (level === 'products') return this.data.objects.products[row]!.sku;
    const adGroup = this.adGroupOf(level, row);
    if (adGroup >= 0) return this.data.objects.adGroups[adGroup]!.sku;
    const campaign = this.campaignOf(level, row);
    return campaign < 0 ? null : (this.skuOfCampaign[campaign] ?? null);
  }

  private isInside(level: Level, { level: above, id }: Within): (row: number) => boolean {
    const { objects } = this.data;
    const place = (list: readonly { id: string }[]) => list.findIndex((one) => one.id === id);
    switch (above) {
      case 'account':
        return () => true;
      case 'products':
        return (row) => this.skuOf(level, row) === id;
      case 'budget_groups':
        return (row) => objects.campaigns[this.campaignOf(level, row)]?.budgetGroup === id;
      case 'campaigns': {
        const at = place(objects.campaigns);
        return (row) => this.campaignOf(level, row) === at;
      }
      case 'ad_groups': {
        const at = place(objects.adGroups);
        return (row) => this.adGroupOf(level, row) === at;
      }
      case 'targets': {
        const at = place(objects.targets);
        return (row) => this.targetOf(level, row) === at;
      }
      default:
        return () => false;
    }
  }

  /** The objects above a place, from the top, the place itself last. Empty for what is not there. */
  pathTo({ level, id }: Within): Step[] {
    let row = -1;
    for (let at = 0; at < this.count(level) && row < 0; at++) if (this.key(level, at) === id) row = at;
    if (row < 0) return [];
    const step = (above: Level, at: number): Step[] =>
      at < 0 || above === level
        ? []
        : [{ level: above, id: this.key(above, at), name: this.nameOf(above, at) }];
    return [
      ...step('campaigns', this.campaignOf(level, row)),
      ...step('ad_groups', this.adGroupOf(level, row)),
      { level, id, name: this.nameOf(level, row) },
    ];
  }

  /** Where each row of the sums' own level belongs at this level. */
  private groupOf(level: Level): Int32Array {
    const known = this.groups.get(level);
    if (known) return known;
    const { objects } = this.data;
    const group = Int32Array.from(objects.targets, ({ adGroup }) => {
      const { campaign, sku } = objects.adGroups[adGroup]!;
      switch (level) {
        case 'ad_groups':
          return adGroup;
        case 'campaigns':
          return campaign;
        case 'products':
          return this.productAt.get(sku ?? '') ?? -1;
        case 'budget_groups':
          return this.budgetGroupAt.get(objects.campaigns[campaign]!.budgetGroup ?? '') ?? -1;
        default:
          return 0;
      }
    });
    this.groups.set(level, group);
    return group;
  }

  /** Ids of the targets below some rows. */
  targetsUnder(level: Level, rows: Rows): string[] {
    const { targets } = this.data.objects;
    if (level === 'targets') return Array.from(rows, (row) => targets[row]!.id);
    const chosen = new Set(rows);
    const group = this.groupOf(level);
    return targets.filter((_, i) => chosen.has(group[i]!)).map(({ id }) => id);
  }

  /** Sums of a level over a frame; those of groups are sums of their targets. */
  private sumsOf(level: Level, frame: string): SumsColumns {
    const key = `${level}@${frame}`;
    const known = this.sums.get(key);
    if (known) return known;
    const own = this.data.frames.get(frame);
    if (!own) throw new Error(`No sums were read for the frame "${frame}".`);
    const sums =
      level === 'targets'
        ? own.targets
        : level === 'terms'
          ? own.pairs
          : level === 'placements'
            ? own.placements
            : level === 'negatives'
              ? new SumsColumns(this.count(level))
              : new SumsColumns(this.count(level)).addGrouped(own.targets, this.groupOf(level));
    if (!sums) throw new Error(`No sums of ${level} were read for the frame "${frame}".`);
    this.sums.set(key, sums);
    return sums;
  }

  /** The goal a row is measured by. */
  goalAt(level: Level, row: number): Goal {
    const campaign = this.campaignOf(level, row);
    const campaignId = campaign < 0 ? '' : this.data.objects.campaigns[campaign]!.id;
    return this.goals.of({ campaignId, sku: this.skuOf(level, row) });
  }

  /** Reads one column row by row. Readers are kept: a column is often tested, sorted by and shown. */
  reader(level: Level, ref: string): (row: number) => Value {
    const key = `${level}|${ref}`;
    let reader = this.readers.get(key);
    if (!reader) {
      const column = readColumn(ref, level);
      if (!column) throw new ConditionError(`There is no column "${ref}" here.`, ref);
      reader = column.column.figure
        ? this.figureReader(level, column.column.name, column.frame)
        : this.factReader(level, column.column.name);
      this.readers.set(key, reader);
    }
    return reader;
  }

  private figureReader(level: Level, name: string, frame: string): (row: number) => number | null {
    if (frame === 'diff' || frame === 'change') {
      const now = this.figureReader(level, name, '');
      const before = this.figureReader(level, name, 'before');
      return (row) => difference(now(row), before(row), frame === 'change');
    }
    const sums = this.sumsOf(level, frame);
    if (isSum(name)) {
      const column = sums[name];
      return (row) => column[row]!;
    }
    const one = emptySums();
    const ratio = ratios[name];
    if (ratio) return (row) => ratio(sums.read(row, one));
    if (name === 'gain') return this.additive(level, (own, row) => this.gainOf(own, row, frame));
    if (name === 'ad_profit') return this.additive(level, (own, row) => this.profitOf(own, row, frame));
    const totals = this.data.frames.get(frame)!.totalSales;
    const totalSales = (row: number): number | null =>
      totals === null ? null : level === 'products' ? totals[row]! : totals.reduce((a, b) => a + b, 0);
    if (name === 'total_sales') return totalSales;
    return (row) => tacos(sums.spend[row]!, totalSales(row) ?? 0);
  }

  /** Money that adds up: where rows have goals or margins of their own, a group's is the sum of theirs. */
  private additive(
    level: Level,
    of: (level: 'targets' | 'terms' | 'placements', row: number) => number | null,
  ): (row: number) => number | null {
    if (level === 'targets' || level === 'terms' || level === 'placements') return (row) => of(level, row);
    const totals = new Float64Array(this.count(level));
    const group = this.groupOf(level);
    for (let row = 0; row < group.length; row++) {
      if (group[row]! >= 0) totals[group[row]!]! += of('targets', row) ?? 0;
    }
    return (row) => totals[row]!;
  }

  private gainOf(level: Level, row: number, frame: string): number {
    const sums = this.sumsOf(level, frame);
    return gainAgainstTarget(
      { spend: sums.spend[row]!, sales: sums.sales[row]! },
      this.goalAt(level, row).targetAcos,
    );
  }

  /** Margin of the product that a row advertises; null when it is not known. */
  marginAt(level: Level, row: number): number | null {
    const at = this.productAt.get(this.skuOf(level, row) ?? '');
    return at === undefined ? null : this.data.objects.products[at]!.margin;
  }

  private profitOf(level: Level, row: number, frame: string): number | null {
    const margin = this.marginAt(level, row);
    if (margin === null) return null;
    const sums = this.sumsOf(level, frame);
    return adProfit({ spend: sums.spend[row]!, sales: sums.sales[row]! }, margin);
  }

  private factReader(level: Level, name: string): (row: number) => Value {
    const { objects, pairs, today } = this.data;
    const target = (row: number) => objects.targets[this.targetOf(level, row)];
    const adGroup = (row: number) => objects.adGroups[this.adGroupOf(level, row)];
    const campaign = (row: number) => objects.campaigns[this.campaignOf(level, row)];
    const product = (row: number) => objects.products[this.productAt.get(this.skuOf(level, row) ?? '') ?? -1];
    const budgetGroup = (row: number) =>
      objects.budgetGroups[
        level === 'budget_groups' ? row : (this.budgetGroupAt.get(campaign(row)?.budgetGroup ?? '') ?? -1)
      ];
    switch (name) {
      case 'name':
        return (row) => this.nameOf(level, row);
      case 'target_acos':
        return (row) => this.goalAt(level, row).targetAcos;
      case 'verdict':
        return (row) => this.verdictAt(level, row);
      case 'over':
        return (row) => this.overAt(level, row);
      case 'clicks_per_order':
        return (row) => clicksForAnOrder(this.beliefs(level)(row).prior.mu) / 2.3;
      case 'status':
        return (row) =>
          level === 'campaigns'
            ? campaign(row)!.status
            : level === 'ad_groups'
              ? adGroup(row)!.status
              : level === 'negatives'
                ? objects.negatives[row]!.status
                : target(row)!.status;
      case 'bid':
        return (row) => target(row)!.bid;
      case 'daily_budget':
        return (row) => (level === 'budget_groups' ? budgetGroup(row) : campaign(row))?.dailyBudget ?? null;
      case 'modifier':
        return (row) => objects.placements[row]!.modifier;
      case 'changed_on':
        return (row) => target(row)!.changedOn;
      case 'last_change':
        return (row) => {
          const { bid, bidBefore } = target(row)!;
          return bid === null || !bidBefore ? null : bid / bidBefore - 1;
        };
      case 'days_since_change':
        return (row) => {
          // What was never changed has been as it is for as long as it is known.
          const since = target(row)!.changedOn ?? target(row)!.firstSeen;
          return since === null ? null : daysBetween(since, today);
        };
      case 'first_seen':
        return (row) => (level === 'terms' ? pairs!.firstSeen[row]! : target(row)!.firstSeen);
      case 'last_seen':
        return (row) => (level === 'terms' ? pairs!.lastSeen[row]! : target(row)!.lastSeen);
      case 'campaign':
        return (row) => campaign(row)?.name ?? null;
      case 'campaign_status':
        return (row) => campaign(row)?.status ?? null;
      case 'campaign_kind':
        return (row) => campaign(row)?.kind ?? null;
      case 'strategy':
        return (row) => campaign(row)?.strategy ?? null;
      case 'budget_group':
        return (row) => budgetGroup(row)?.name ?? null;
      case 'ad_group':
        return (row) => adGroup(row)?.name ?? null;
      case 'ad_group_status':
        return (row) => adGroup(row)?.status ?? null;
      case 'product':
        return (row) => this.skuOf(level, row);
      case 'stock':
        return (row) => product(row)?.stock ?? null;
      case 'placement':
        return (row) => objects.placements[row]!.placement;
      case 'target':
        return (row) => target(row)?.expression ?? null;
      case 'target_kind':
        return (row) => target(row)?.kind ?? null;
      case 'match_type':
        return (row) =>
          level === 'negatives' ? objects.negatives[row]!.matchType : (target(row)?.matchType ?? null);
      case 'served':
        return servedReader(objects, pairs!, (row) => this.skuOf('terms', row));
      default:
        return blockedReader(objects, pairs!);
    }
  }

  nameOf(level: Level, row: number): string {
    const { objects, pairs } = this.data;
    switch (level) {
      case 'account':
        return 'Account';
      case 'budget_groups':
        return objects.budgetGroups[row]!.name;
      case 'products':
        return objects.products[row]!.title;
      case 'campaigns':
        return objects.campaigns[row]!.name;
      case 'ad_groups':
        return objects.adGroups[row]!.name;
      case 'targets':
        return objects.targets[row]!.expression;
      case 'negatives':
        return objects.negatives[row]!.expression;
      case 'placements':
        return objects.placements[row]!.placement.replaceAll('_', ' ');
      case 'terms':
        return pairs!.texts[pairs!.term[row]!]!;
    }
  }

  /**
   * What is believed of a row. Targets and terms are judged as everywhere, against their ad group and what is above
   * it; groups against the groups beside them.
   */
  private beliefs(level: Level): (row: number) => Belief & { prior: Prior } {
    const known = this.beliefsByLevel.get(level);
    if (known) return known;
    const made =
      level === 'targets' || level === 'terms' ? this.pooledBeliefs(level) : this.groupBeliefs(level);
    this.beliefsByLevel.set(level, made);
    return made;
  }

  private evidenceOf(level: Level): EvidenceColumns {
    const { evidence } = this.data;
    if (!evidence) throw new Error('No evidence was read.');
    const own =
      level === 'terms' ? evidence.pairs : level === 'placements' ? evidence.placements : evidence.targets;
    if (!own) throw new Error(`No evidence of ${level} was read.`);
    if (level === 'targets' || level === 'terms' || level === 'placements') return own;
    const group = this.groupOf(level);
    const count = this.count(level);
    const [n, y] = [new Float64Array(count), new Float64Array(count)];
    for (let row = 0; row < group.length; row++) {
      const at = group[row]!;
      if (at < 0) continue;
      n[at]! += own.n[row]!;
      y[at]! += own.y[row]!;
    }
    return { n, y, seen: new SumsColumns(count).addGrouped(own.seen, group) };
  }

  private cpcAt(level: Level, row: number): number | null {
    const { clicks, spend } = this.sumsOf(level, '');
    return clicks[row]! > 0 ? spend[row]! / clicks[row]! : null;
  }

  private pooledBeliefs(level: 'targets' | 'terms'): (row: number) => Belief & { prior: Prior } {
    const { objects } = this.data;
    const { n, y, seen } = this.evidenceOf(level);
    const prices = new Map<string, ProductInfo>(
      objects.products.map(({ sku, title, price, margin }) => [sku, { sku, title, price, margin }]),
    );
    const infos = objects.adGroups.map(({ id, name, campaign, sku }): AdGroupInfo => ({
      adGroupId: id,
      name,
      campaignId: objects.campaigns[campaign]!.id,
      campaign: objects.campaigns[campaign]!.name,
      automatic: objects.campaigns[campaign]!.kind === 'automatic',
      sku,
      enabled: true,
      modifier: 1,
    }));
    const pool = new Pool(prices);
    for (let row = 0; row < n.length; row++) {
      if (seen.clicks[row] === 0) continue;
      pool.add(infos[this.adGroupOf(level, row)]!, {
        n: n[row]!,
        y: y[row]!,
        seenClicks: seen.clicks[row]!,
        seenOrders: seen.orders[row]!,
        seenSales: seen.sales[row]!,
      });
    }
    return (row) => {
      const { prior, value } = pool.of(infos[this.adGroupOf(level, row)]!);
      return {
        prior,
        gamma: posterior(prior, n[row]!, y[row]!),
        value: valuePerOrder(value, seen.sales[row]!, seen.orders[row]!),
        cpc: this.cpcAt(level, row),
      };
    };
  }

  private groupBeliefs(level: Level): (row: number) => Belief & { prior: Prior } {
    const { n, y, seen } = this.evidenceOf(level);
    const moments = noMoments();
    let sales = 0;
    let orders = 0;
    for (let row = 0; row < n.length; row++) {
      addSibling(moments, n[row]!, y[row]!, seen.clicks[row]!, seen.orders[row]!);
      sales += seen.sales[row]!;
      orders += seen.orders[row]!;
    }
    const prior = priorOf(moments, null);
    const usual = orders > 0 ? sales / orders : 0;
    return (row) => {
      const price = this.data.objects.products[this.productAt.get(this.skuOf(level, row) ?? '') ?? -1]?.price;
      return {
        prior,
        gamma: posterior(prior, n[row]!, y[row]!),
        value: valuePerOrder(price || usual, seen.sales[row]!, seen.orders[row]!),
        cpc: this.cpcAt(level, row),
      };
    };
  }

  /** What is believed of one row. */
  belief(level: Level, row: number): Belief & { prior: Prior } {
    return this.beliefs(level)(row);
  }

  private overAt(level: Level, row: number): number | null {
    const belief = this.beliefs(level)(row);
    return belief.value > 0 ? probabilityOver(belief, this.goalAt(level, row).targetAcos) : null;
  }

  private verdictAt(level: Level, row: number): Verdict {
    return verdictOf(this.overAt(level, row));
  }

  /** The likely ACOS of a row, for its whisker; null where nothing was clicked. */
  intervalAt(level: Level, row: number): AcosInterval | null {
    const belief = this.beliefs(level)(row);
    return belief.value > 0 ? acosInterval(belief) : null;
  }

  /** Expected revenue per click of a row by the evidence, micros. */
  believedRpc(level: Level, row: number): number {
    const { gamma, value } = this.beliefs(level)(row);
    return (gamma.shape / gamma.rate) * value;
  }

  /** Rows that match, sorted. Nothing sorts last in both directions; spend without sales is the worst ACOS. */
  query({ level, within, where, sort, descending }: TableQuery): Rows {
    const inside = within ? this.isInside(level, within) : null;
    const read: Reader = (ref) => this.reader(level, ref);
    const test = where ? compile(where, level, read) : null;
    const found: number[] = [];
    for (let row = 0; row < this.count(level); row++) {
      if ((!inside || inside(row)) && (!test || test(row))) found.push(row);
    }
    return sort === null ? Int32Array.from(found) : this.sorted(found, this.reader(level, sort), descending);
  }

  private sorted(rows: number[], read: (row: number) => Value, descending: boolean): Rows {
    const values = rows.map(read);
    const order = Int32Array.from(rows.keys());
    const sign = descending ? -1 : 1;
    if (values.some((value) => typeof value === 'string')) {
      const collator = new Intl.Collator('en', { numeric: true });
      order.sort((a, b) => {
        const [x, y] = [values[a]!, values[b]!] as (string | null)[];
        if (x === null || y === null) return x === y ? a - b : x === null ? 1 : -1;
        return sign * collator.compare(x!, y!) || a - b;
      });
    } else {
      const numbers = Float64Array.from(values, (value) => (value === null ? NaN : (value as number)));
      order.sort((a, b) => {
        const [x, y] = [numbers[a]!, numbers[b]!];
        if (x === y) return a - b;
        if (Number.isNaN(x) || Number.isNaN(y)) return Number.isNaN(x) ? (Number.isNaN(y) ? a - b : 1) : -1;
        return sign * (x < y ? -1 : 1);
      });
    }
    return order.map((at) => rows[at]!);
  }

  /** Totals of rows: sums, true ratios of the sums, and money that adds up. Null where a column has no total. */
  totals(level: Level, rows: Rows, refs: readonly string[]): Record<string, Value> {
    const bySums = new Map<string, Sums>();
    const sumsIn = (frame: string): Sums => {
      let sums = bySums.get(frame);
      if (!sums) {
        sums = emptySums();
        const columns = this.sumsOf(level, frame);
        for (const name of sumNames) {
          const column = columns[name];
          let sum = 0;
          for (const row of rows) sum += column[row]!;
          sums[name] = sum;
        }
        bySums.set(frame, sums);
      }
      return sums;
    };
    const add = (name: string, frame: string): number => {
      const read = this.reader(level, frame === '' ? name : `${name}@${frame}`);
      let sum = 0;
      for (const row of rows) sum += (read(row) as number | null) ?? 0;
      return sum;
    };
    const figure = (name: string, frame: string): number | null => {
      if (isSum(name)) return sumsIn(frame)[name];
      if (ratios[name]) return ratios[name](sumsIn(frame));
      if (name === 'tacos') return tacos(sumsIn(frame).spend, add('total_sales', frame));
      return add(name, frame);
    };
    return Object.fromEntries(
      refs.map((ref) => {
        const column = readColumn(ref, level);
        if (!column?.column.figure) return [ref, null];
        const { name } = column.column;
        if (column.frame !== 'diff' && column.frame !== 'change') return [ref, figure(name, column.frame)];
        return [ref, difference(figure(name, ''), figure(name, 'before'), column.frame === 'change')];
      }),
    );
  }
}

/** Now less before, or that as a share of before; nothing where either is missing or endless. */
function difference(now: number | null, before: number | null, relative: boolean): number | null {
  if (now === null || before === null || !Number.isFinite(now) || !Number.isFinite(before)) return null;
  if (!relative) return now - before;
  return before === 0 ? null : (now - before) / before;
}
