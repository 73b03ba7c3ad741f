import { flat, readSchedule } from '../../core/account/schedule.ts';
import { earningsOf } from '../../core/budgets/rows.ts';
import type { Objects } from '../../core/account/store.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import {
  addCounts,
  dayScatter,
  hourFactors,
  noCounts,
  type HourUnit,
  type WeekCounts,
} from '../../core/hours/beliefs.ts';
import { sentenceOfHours } from '../../core/hours/explain.ts';
import { scheduleDrafts } from '../../core/hours/lines.ts';
import { outcomeOf, type HourGround } from '../../core/hours/outcome.ts';
import { factorsOfPart, hoursPicture, type HoursPicture, type ScopeMean } from '../../core/hours/picture.ts';
import { hourGuards } from '../../core/hours/propose.ts';
import { hourGround, hoursRows, type HoursGround, type HoursRow } from '../../core/hours/rows.ts';
import { addDays, daysBetween, type Window } from '../../core/metrics/days.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { effectOfMove } from '../../core/placements/lines.ts';
import { hoursAsPlayed } from '../../core/routines/as-played.ts';
import type { JudgeInput } from '../../core/round/types.ts';
import type { StructureCampaign } from '../../core/structure/ground.ts';
import type { Database } from '../db/connection.ts';
import { adGroupWeekdays, fieldChanged, hourDays, weekCounts } from '../facts/hours.queries.ts';
import { campaignsOf } from './campaigns.ts';
import type { Edition } from './edition.ts';
import type { ExploreEngine } from './engine.ts';
import type { JudgingEngine } from './judging.ts';
import type { PastGround } from './past.ts';

/** What hours are judged by, beside the account. */
export interface HoursAbout {
  curve: readonly number[];
  /** Whole weeks that are asked for; fewer are told of where there are fewer. */
  weeks: number;
  minimumBid: Micros;
}

/** Whose hours: of everything, or of one product, campaign or ad group by its SKU or id. */
export interface HoursScope {
  kind: 'account' | 'product' | 'campaign' | 'ad_group';
  key: string;
}

/** A schedule that somebody wants, or (null) what is proposed. */
export interface ScheduleOrder {
  campaignId: string;
  schedule: string | null;
  reason: string;
}

/** Rows, and the whole weeks that tell of them; `span` is null where no hours are known. */
export interface HoursFound {
  weeks: number;
  span: Window | null;
  /** By how much days scatter more than chance lets them. */
  scatter: number;
  rows: HoursRow[];
}

/** A scope at every time of the week; of a campaign with what its schedule is weighed by. */
export interface ScopeHours {
  name: string;
  /** The product whose total sales stand beside it; null for all. */
  sku: string | null;
  mean: ScopeMean;
  picture: HoursPicture;
  ground: HourGround | null;
}

export interface JudgedHours extends HoursFound {
  campaigns: Map<string, StructureCampaign>;
  ground: HoursGround;
  counts: Map<string, WeekCounts>;
  marginOf: (sku: string | null) => number | null;
}

/** Judges campaigns by the time of the week. */
export class HoursEngine {
  private readonly known = new WeakMap<JudgeInput, Map<number, Promise<JudgedHours>>>();

  constructor(
    private readonly sql: Database,
    private readonly tables: ExploreEngine,
    private readonly judging: JudgingEngine,
  ) {}

  /** Campaigns by the time of the week as JSON (`HoursFound`); null while there are no settled figures. */
  async rows(edition: Edition, window: Window, about: HoursAbout): Promise<string | null> {
    const judged = await this.judged(edition, window, about);
    if (!judged) return null;
    const { weeks, span, scatter, rows } = judged;
    return JSON.stringify({ weeks, span, scatter, rows } satisfies HoursFound);
  }

  /** One scope (`ScopeHours`); null while there are no settled figures, undefined for a scope that is not there. */
  async scope(
    edition: Edition,
    window: Window,
    about: HoursAbout,
    scope: HoursScope,
  ): Promise<ScopeHours | null | undefined> {
    const judged = await this.judged(edition, window, about);
    return judged && this.scopeOf(edition.accountId, judged, scope);
  }

  /** The lines that carry orders out, by campaign; one that is not there, or that nothing is proposed for, is left out. */
  async drafts(
    edition: Edition,
    window: Window,
    about: HoursAbout,
    orders: readonly ScheduleOrder[],
  ): Promise<[campaignId: string, drafts: LineDraft[]][]> {
    const judged = await this.judged(edition, window, about);
    if (!judged) return [];
    const rows = new Map(judged.rows.map((row) => [row.campaignId, row]));
    return orders.flatMap(({ campaignId, schedule, reason }): [string, LineDraft[]][] => {
      const row = rows.get(campaignId);
      const campaign = judged.campaigns.get(campaignId);
      const text = schedule ?? row?.proposal?.schedule;
      if (!row || !campaign || text === undefined) return [];
      return [[campaignId, hoursDrafts(judged, row, text, schedule === null ? null : reason)]];
    });
  }

  private async judged(edition: Edition, window: Window, about: HoursAbout): Promise<JudgedHours | null> {
    const input = await this.judging.grounds(edition, window, false);
    if (!input) return null;
    let byWeeks = this.known.get(input);
    if (!byWeeks) this.known.set(input, (byWeeks = new Map()));
    let pending = byWeeks.get(about.weeks);
    if (!pending) {
      pending = this.tables
        .load(edition)
        .then((account) => hoursBy(this.sql, edition.accountId, account!.objects, input, about));
      byWeeks.set(about.weeks, pending);
      pending.catch(() => byWeeks.delete(about.weeks));
    }
    return pending;
  }

  private async scopeOf(
    accountId: number,
    judged: JudgedHours,
    { kind, key }: HoursScope,
  ): Promise<ScopeHours | undefined> {
    const { campaigns, counts, ground, scatter, span } = judged;
    if (kind === 'ad_group') return this.adGroup(accountId, judged, key);
    const own = [...campaigns.values()].filter((campaign) =>
      kind === 'account' ? true : kind === 'product' ? skuOf(campaign) === key : campaign.campaignId === key,
    );
    if (own.length === 0) return undefined;
    const sum = own.reduce(
      (all, { campaignId }) => addCounts(all, counts.get(campaignId) ?? noCounts()),
      noCounts(),
    );
    const [first] = own;
    const factors =
      kind === 'campaign'
        ? ground.factors.get(key)!
        : kind === 'product'
          ? hourFactors(productUnits(judged), scatter).get(key)!
          : hourFactors([{ id: '', sku: '', counts: sum }], scatter).get('')!;
    const sku = kind === 'account' ? null : skuOf(first!) || null;
    return {
      name: kind === 'account' ? 'The account' : kind === 'product' ? key : first!.name,
      sku,
      mean: meanOf(own, counts),
      picture: hoursPicture(sum, factors, meanOf(own, counts)),
      ground: kind === 'campaign' && span ? groundOf(first!, judged) : null,
    };
  }

  private async adGroup(
    accountId: number,
    judged: JudgedHours,
    key: string,
  ): Promise<ScopeHours | undefined> {
    const campaign = [...judged.campaigns.values()].find(({ adGroups }) =>
      adGroups.some(({ adGroupId }) => adGroupId === key),
    );
    const factors = campaign && judged.ground.factors.get(campaign.campaignId);
    if (!campaign || !factors || !judged.span) return undefined;
    const days = await adGroupWeekdays(this.sql, accountId, key, judged.span);
    const whole = judged.counts.get(campaign.campaignId) ?? noCounts();
    const counts = partCounts(whole, days);
    const group = campaign.adGroups.find(({ adGroupId }) => adGroupId === key)!;
    const mean = meanOf([{ ...campaign, adGroups: [group] }], judged.counts);
    return {
      name: `${group.name} in ${campaign.name}`,
      sku: group.sku,
      mean,
      picture: hoursPicture(counts, factorsOfPart(factors, days), mean),
      ground: null,
    };
  }
}

/** Campaigns by the time of the week, as the account stands; `past`: as it stood on a night, and as far as it was known by then. */
export async function hoursBy(
  sql: Database,
  accountId: number,
  objects: Objects,
  input: JudgeInput,
  about: HoursAbout,
  past: PastGround | null = null,
): Promise<JudgedHours> {
  const { today, window, products, response, responses } = input;
  const campaigns = await campaignsOf(sql, accountId, objects, input);
  const known = past?.known ?? (() => 1);
  const days = (
    await hourDays(sql, accountId, { from: addDays(window.to, 1 - 7 * about.weeks), to: window.to })
  ).map((one) => ({ ...one, orders: one.orders * known(one.day) }));
  const told = days.length > 0 ? daysBetween(days[0]!.day, window.to) + 1 : 0;
  const weeks = Math.min(about.weeks, Math.floor(told / 7));
  const span = weeks > 0 ? { from: addDays(window.to, 1 - 7 * weeks), to: window.to } : null;
  const inside = days.filter(({ day }) => span !== null && day >= span.from);
  const ripe = new Map(
    inside.map(({ day }) => [
      day,
      Math.max(0.05, maturity(about.curve, daysBetween(day, today))) / Math.max(0.05, known(day)),
    ]),
  );
  const counts = span ? await weekCounts(sql, accountId, span, ripe, null) : new Map<string, WeekCounts>();
  const scatter = dayScatter(inside);
  const units = campaigns.map(({ campaignId, adGroups }): HourUnit => ({
    id: campaignId,
    sku: adGroups[0]?.sku ?? '',
    counts: counts.get(campaignId) ?? noCounts(),
  }));
  const factors = hourFactors(units, scatter);
  for (const [id, moves] of past?.moves ?? []) {
    const own = counts.get(id);
    if (own) counts.set(id, hoursAsPlayed(own, moves, responses?.get(id) ?? response));
  }
  const ground: HoursGround = {
    today,
    weeks,
    campaigns,
    counts,
    factors,
    changedOn: past ? past.changedOn('campaign', 'schedule') : await fieldChanged(sql, accountId, 'schedule'),
    guards: { ...hourGuards, minimumBid: about.minimumBid },
    response,
    ...(responses ? { responses } : {}),
  };
  return {
    weeks,
    span,
    scatter,
    rows: hoursRows(ground),
    campaigns: new Map(campaigns.map((one) => [one.campaignId, one])),
    ground,
    counts,
    marginOf: (sku) => (sku === null ? null : (products.get(sku)?.margin ?? null)),
  };
}

/** The lines that set a campaign's schedule. `reason` null: what is proposed for it, with its factor on the bids. */
export function hoursDrafts(
  judged: JudgedHours,
  row: HoursRow,
  text: string,
  reason: string | null,
): LineDraft[] {
  const campaign = judged.campaigns.get(row.campaignId)!;
  const wanted = readSchedule(text) ?? flat();
  const beta = reason === null ? row.proposal!.beta : 1;
  const own = groundOf(campaign, judged);
  const outcome = own && outcomeOf(own, readSchedule(row.schedule) ?? flat(), wanted, beta);
  const effect = outcome && effectOfMove(outcome, judged.marginOf(row.sku));
  return scheduleDrafts(campaign, wanted, beta, {
    reason: reason ?? sentenceOfHours(row.proposal!, judged.weeks),
    effect,
  });
}

const skuOf = ({ adGroups }: StructureCampaign): string => adGroups[0]?.sku ?? '';

/** Products as units of their own: each the sum of its campaigns. */
function productUnits({ campaigns, counts }: JudgedHours): HourUnit[] {
  const sums = new Map<string, WeekCounts>();
  for (const campaign of campaigns.values()) {
    const sku = skuOf(campaign);
    const sum = sums.get(sku) ?? noCounts();
    sums.set(sku, addCounts(sum, counts.get(campaign.campaignId) ?? noCounts()));
  }
  return [...sums].map(([sku, own]) => ({ id: sku, sku, counts: own }));
}

/** What a campaign's schedule is weighed by; null where its times are not known. */
function groundOf(campaign: StructureCampaign, { counts, ground }: JudgedHours): HourGround | null {
  const factors = ground.factors.get(campaign.campaignId);
  return factors
    ? hourGround(campaign, counts.get(campaign.campaignId) ?? noCounts(), factors, ground)
    : null;
}

/** What a click of campaigns is expected to sell, and their goal, by their clicks. */
function meanOf(campaigns: readonly StructureCampaign[], counts: ReadonlyMap<string, WeekCounts>): ScopeMean {
  let [weight, earns, targetAcos, variance] = [0, 0, 0, 0];
  for (const { campaignId, adGroups } of campaigns) {
    const own = earningsOf(adGroups.flatMap(({ targets }) => targets));
    const clicks = 1 + (counts.get(campaignId)?.clicks.reduce((sum, one) => sum + one, 0) ?? 0);
    weight += clicks;
    earns += clicks * own.earns;
    targetAcos += clicks * own.mean((one) => one.targetAcos);
    variance += (clicks * own.spread) ** 2;
  }
  return {
    earns: earns / weight,
    doubt: earns > 0 ? Math.sqrt(variance) / earns : 1,
    targetAcos: targetAcos / weight,
  };
}

/** An ad group's days, each spread over its hours as its campaign's are: no hours are told of ad groups. */
function partCounts(
  whole: WeekCounts,
  days: readonly Record<'clicks' | 'spend' | 'orders' | 'sales', number>[],
): WeekCounts {
  const made = noCounts();
  days.forEach((day, weekday) => {
    const places = Array.from({ length: 24 }, (_, hour) => weekday * 24 + hour);
    const all = places.reduce((sum, at) => sum + whole.clicks[at]!, 0);
    for (const at of places) {
      const share = all > 0 ? whole.clicks[at]! / all : 1 / 24;
      for (const name of ['clicks', 'spend', 'orders', 'sales'] as const) made[name][at] = day[name] * share;
      made.grown[at] = day.orders * share;
    }
  });
  return made;
}
