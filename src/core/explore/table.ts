import { marginOfMix } from '../account/mix.ts';
import { fieldShownAt, type FieldEntity } from '../changes/fields.ts';
import { scheduleFactor } from '../account/schedule.ts';
import { effectiveBid } from '../placements/effective.ts';
import type { Level, Within, Rows } from '../account/levels.ts';
import {
  acosInterval,
  clicksForAnOrder,
  probabilityOver,
  verdictOf,
  type AcosInterval,
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
import { responseAt, type Response } from '../effect/response.ts';
import { Goals, type Goal, type SetGoal } from '../goals/goals.ts';
import type { Pooled } from '../evidence/pooling.ts';
import type { TableModel } from '../effect/model.ts';
import { Beliefs, type Evidence, type RowBelief } from '../evidence/beliefs.ts';
import { readColumn } from './columns.ts';
import { compile, ConditionError, type Condition, type Reader, type Value } from './conditions.ts';
import { SortedRows, sortRows } from './sorted.ts';
import { runningOn } from '../account/running.ts';
import { blockedReader, servedReader } from '../terms/relations.ts';
import {
  emptySums,
  sumNames,
  SumsColumns,
  type FrameSums,
  type Objects,
  type Pairs,
} from '../account/store.ts';
import { AccountTree } from '../account/tree.ts';

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
  goals: readonly SetGoal[];
  frames: ReadonlyMap<string, FrameSums>;
  evidence: Evidence | null;
  /** What was learned of the account. */
  model: TableModel;
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
type SumName = (typeof sumNames)[number];
const isSum = (name: string): name is SumName => (sumNames as readonly string[]).includes(name);

/** The whole account as tables, one a level: reads, tests, sorts and sums rows. No table holds a ratio of ratios. */
export class AccountTable extends AccountTree {
  private readonly goals: Goals;
  private readonly marginOf: (sku: string) => number | null;
  private readonly sums = new Map<string, SumsColumns>();
  private readonly readers = new Map<string, (row: number) => Value>();
  private readonly beliefs: Beliefs;

  constructor(private readonly data: TableData) {
    super(data);
    const margins = new Map(data.objects.products.map(({ sku, margin }) => [sku, margin]));
    this.marginOf = (sku) => margins.get(sku) ?? null;
    this.goals = new Goals(data.goals, undefined, this.marginOf, data.objects.mixes);
    this.beliefs = new Beliefs(data, this, (level) => this.sumsOf(level, ''));
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
    const adGroup = this.adGroupOf(level, row);
    const adGroupId = adGroup < 0 ? null : this.data.objects.adGroups[adGroup]!.id;
    return this.goals.of({ adGroupId, campaignId, sku: this.skuOf(level, row) });
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

  /** Margin of what a row sells; null when it is not known. */
  marginAt(level: Level, row: number): number | null {
    const adGroup = this.adGroupOf(level, row);
    const mix =
      adGroup < 0 ? undefined : this.data.objects.mixes?.get(this.data.objects.adGroups[adGroup]!.id);
    return mix ? marginOfMix(mix, this.marginOf) : (this.productOf(level, row)?.margin ?? null);
  }

  private profitOf(level: Level, row: number, frame: string): number | null {
    const margin = this.marginAt(level, row);
    if (margin === null) return null;
    const sums = this.sumsOf(level, frame);
    return adProfit({ spend: sums.spend[row]!, sales: sums.sales[row]! }, margin);
  }

  /** A field of the row's own object, or of the one above that has it; null for what is no field. */
  private fieldReader(level: Level, name: string): ((row: number) => string | number | null) | null {
    const { objects } = this.data;
    if (level === 'budget_groups')
      return name === 'daily_budget' ? (row) => objects.budgetGroups[row]!.dailyBudget : null;
    const field = fieldShownAt(level, name);
    if (!field) return null;
    const places: Record<FieldEntity, (row: number) => number> = {
      campaign: (row) => this.campaignOf(level, row),
      ad_group: (row) => this.adGroupOf(level, row),
      target: (row) => this.targetOf(level, row),
      negative: (row) => row,
      placement_modifier: (row) => row,
    };
    const place = places[field.entity];
    return (row) => field.read(objects, place(row));
  }

  /**
   * What one click may cost at most (domain, section 8), micros: of a target in its campaign's highest placement, of a
   * placement for the dearest target of its campaign. Null without a bid.
   */
  private mostOfClick(level: Level): (row: number) => Value {
    const { objects } = this.data;
    const { campaigns, placements, targets, adGroups } = objects;
    const scheduled = campaigns.map(({ fields }) => scheduleFactor(String(fields.schedule ?? '')));
    const highest = new Float64Array(campaigns.length);
    for (const { campaign, modifier } of placements)
      highest[campaign] = Math.max(highest[campaign]!, modifier ?? 0);
    const bidOf = (target: number): number | null => {
      const { bid, adGroup } = targets[target]!;
      return bid ?? (Number(adGroups[adGroup]!.fields.default_bid ?? 0) || null);
    };
    if (level === 'targets')
      return (row) => {
        const campaign = this.campaignOf(level, row);
        const bid = bidOf(row);
        return bid === null
          ? null
          : effectiveBid(bid, highest[campaign]!, campaigns[campaign]!.strategy, scheduled[campaign]);
      };
    const dearest = new Float64Array(campaigns.length);
    targets.forEach(({ status }, target) => {
      const campaign = this.campaignOf('targets', target);
      if (status === 'enabled') dearest[campaign] = Math.max(dearest[campaign]!, bidOf(target) ?? 0);
    });
    return (row) => {
      const { campaign, modifier } = placements[row]!;
      return dearest[campaign]! > 0
        ? effectiveBid(dearest[campaign]!, modifier ?? 0, campaigns[campaign]!.strategy, scheduled[campaign])
        : null;
    };
  }

  private factReader(level: Level, name: string): (row: number) => Value {
    const { objects, pairs, today } = this.data;
    const target = (row: number) => objects.targets[this.targetOf(level, row)];
    const adGroup = (row: number) => objects.adGroups[this.adGroupOf(level, row)];
    const campaign = (row: number) => objects.campaigns[this.campaignOf(level, row)];
    const product = (row: number) => this.productOf(level, row);
    const budgetGroup = (row: number) =>
      objects.budgetGroups[
        level === 'budget_groups' ? row : (this.budgetGroupAt.get(campaign(row)?.budgetGroup ?? '') ?? -1)
      ];
    const field = this.fieldReader(level, name);
    if (field) return field;
    switch (name) {
      case 'most_of_click':
        return this.mostOfClick(level);
      case 'name':
        return (row) => this.nameOf(level, row);
      case 'target_acos':
        return (row) => this.goalAt(level, row).targetAcos;
      case 'verdict':
        return (row) => this.verdictAt(level, row);
      case 'over':
        return (row) => this.overAt(level, row);
      case 'clicks_per_order':
        return (row) => clicksForAnOrder(this.belief(level, row).prior.mu) / 2.3;
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
      case 'bid_history':
        return () => null;
      case 'served':
        return servedReader(objects, runningOn(objects, today), pairs!, (row) => this.skuOf('terms', row));
      default:
        return blockedReader(objects, pairs!);
    }
  }

  /** What is believed of one row. */
  belief(level: Level, row: number): RowBelief {
    return this.beliefs.of(level)(row);
  }

  get valueWeight(): number {
    return this.data.model.valueWeight;
  }

  /** What the siblings of a target or term say before it speaks. */
  siblings(level: 'targets' | 'terms', row: number): Pooled {
    return this.beliefs.siblings(level)(row);
  }

  private overAt(level: Level, row: number): number | null {
    const belief = this.belief(level, row);
    return belief.value > 0 ? probabilityOver(belief, this.goalAt(level, row).targetAcos) : null;
  }

  private verdictAt(level: Level, row: number): Verdict {
    return verdictOf(this.overAt(level, row));
  }

  /** The likely ACOS of a row, for its whisker; null where nothing was clicked. */
  intervalAt(level: Level, row: number): AcosInterval | null {
    const belief = this.belief(level, row);
    return belief.value > 0 ? acosInterval(belief) : null;
  }

  /** How a target's bid moves its clicks and CPC: as its campaign's do, by what it pays of its bid itself. */
  responseOf(target: number): Response {
    const { objects, model, evidence } = this.data;
    const campaign = this.campaignOf('targets', target);
    const learned = model.responses[objects.campaigns[campaign]?.id ?? ''] ?? model.response;
    const bid = (objects.targets[target]!.bid ?? 0) * (evidence?.present?.modifiers[campaign] ?? 1);
    const { cpc } = this.belief('targets', target);
    return responseAt(learned, bid > 0 && cpc !== null ? cpc / bid : null);
  }

  /** Expected revenue per click of a row by the evidence, micros. */
  believedRpc(level: Level, row: number): number {
    const { gamma, value } = this.belief(level, row);
    return (gamma.shape / gamma.rate) * value;
  }

  /** Rows that match, sorted. Nothing sorts last in both directions; spend without sales is the worst ACOS. */
  query({ level, within, where, sort, descending }: TableQuery): SortedRows {
    const inside = within ? this.isInside(level, within) : null;
    const read: Reader = (ref) => this.reader(level, ref);
    const test = where ? compile(where, level, read) : null;
    const found: number[] = [];
    for (let row = 0; row < this.count(level); row++) {
      if ((!inside || inside(row)) && (!test || test(row))) found.push(row);
    }
    const rows = Int32Array.from(found);
    return sort === null ? new SortedRows(rows, null) : sortRows(rows, this.reader(level, sort), descending);
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
