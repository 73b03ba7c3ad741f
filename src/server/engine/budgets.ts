import { budgetDrafts, effectOfBudget } from '../../core/budgets/lines.ts';
import { hourShares, type CampaignDay } from '../../core/budgets/hours.ts';
import { caughtShare } from '../../core/budgets/lost.ts';
import { budgetGuards, optionOf, type BudgetOption } from '../../core/budgets/propose.ts';
import { budgetNow, budgetRows, type BudgetGround, type BudgetRow } from '../../core/budgets/rows.ts';
import { sentenceOfBudget } from '../../core/budgets/explain.ts';
import { isResearchCampaign } from '../../core/budgets/rules.ts';
import type { Objects } from '../../core/account/store.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import type { Day, Window } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { daysAsPlayed } from '../../core/routines/as-played.ts';
import type { JudgeInput } from '../../core/round/types.ts';
import type { StructureCampaign } from '../../core/structure/ground.ts';
import type { Database } from '../db/connection.ts';
import { campaignDays, campaignHours, fieldChanged } from '../facts/hours.queries.ts';
import { campaignsOf } from './campaigns.ts';
import type { Edition } from './edition.ts';
import type { ExploreEngine } from './engine.ts';
import type { JudgingEngine } from './judging.ts';
import type { PastGround } from './past.ts';

/** What of a campaign is wanted: what is proposed (null), one of the ways that were compared, or a budget by hand. */
export type BudgetOrder =
  | { campaignId: string; way: BudgetOption['kind'] | null }
  | { campaignId: string; budget: Micros; reason: string };

export interface JudgedBudgets {
  rows: Map<string, BudgetRow>;
  campaigns: Map<string, StructureCampaign>;
  ground: BudgetGround;
  marginOf: (sku: string | null) => number | null;
}

/** Judges campaigns by their budgets. */
export class BudgetsEngine {
  private readonly known = new WeakMap<JudgeInput, Promise<JudgedBudgets | null>>();

  constructor(
    private readonly sql: Database,
    private readonly tables: ExploreEngine,
    private readonly judging: JudgingEngine,
  ) {}

  /** Campaigns with their budgets as JSON (`BudgetRow[]`); null while there are no settled figures. */
  async rows(edition: Edition, window: Window, minimumBudget: Micros): Promise<string | null> {
    const judged = await this.judged(edition, window, minimumBudget);
    return judged && JSON.stringify([...judged.rows.values()]);
  }

  /** The lines that carry orders out, by campaign; one that is not there, or that nothing is proposed for, is left out. */
  async drafts(
    edition: Edition,
    window: Window,
    minimumBudget: Micros,
    orders: readonly BudgetOrder[],
  ): Promise<[campaignId: string, drafts: LineDraft[]][]> {
    const judged = await this.judged(edition, window, minimumBudget);
    if (!judged) return [];
    return orders.flatMap((order): [string, LineDraft[]][] => {
      const row = judged.rows.get(order.campaignId);
      const campaign = judged.campaigns.get(order.campaignId);
      if (!row || !campaign) return [];
      if ('budget' in order) {
        const now = budgetNow(campaign, judged.ground);
        const chosen: BudgetOption = now
          ? optionOf(now, 'raise', order.budget, 1)
          : { ...unknown, budget: order.budget };
        const effect = now ? effectOf(judged, row, chosen) : null;
        return [[order.campaignId, budgetDrafts(campaign, chosen, { reason: order.reason, effect })]];
      }
      const chosen = row.proposal?.options.find(
        ({ kind }) => kind === (order.way ?? row.proposal!.chosen.kind),
      );
      return chosen ? [[order.campaignId, budgetDraftsBy(judged, row, chosen)]] : [];
    });
  }

  private async judged(
    edition: Edition,
    window: Window,
    minimumBudget: Micros,
  ): Promise<JudgedBudgets | null> {
    const input = await this.judging.grounds(edition, window, false);
    if (!input) return null;
    let pending = this.known.get(input);
    if (!pending) {
      pending = this.tables
        .load(edition)
        .then(
          (account) =>
            account && budgetsBy(this.sql, edition.accountId, account.objects, input, minimumBudget),
        );
      this.known.set(input, pending);
      pending.catch(() => this.known.delete(input));
    }
    return pending;
  }
}

/** Campaigns with their budgets, as the account stands; `past`: as it stood on a night, and as far as it was known by then. */
export async function budgetsBy(
  sql: Database,
  accountId: number,
  objects: Objects,
  input: JudgeInput,
  minimumBudget: Micros,
  past: PastGround | null = null,
): Promise<JudgedBudgets> {
  const { today, window, products, response, responses } = input;
  const campaigns = await campaignsOf(sql, accountId, objects, input);
  const skus = new Map(
    campaigns.flatMap(({ campaignId, adGroups: [first] }) =>
      first?.sku == null ? [] : [[campaignId, first.sku] as const],
    ),
  );
  const skuOf = (campaignId: string) => skus.get(campaignId) ?? null;
  const siblings = new Map<string, number>();
  for (const sku of skus.values()) siblings.set(sku, (siblings.get(sku) ?? 0) + 1);
  const caughtOf = (sku: string | null) => (sku !== null && siblings.get(sku)! > 1 ? caughtShare : 0);
  const hours = await campaignHours(sql, accountId, window);
  const days = await campaignDays(sql, accountId, window, hourShares(hours, skuOf, caughtOf));
  if (past)
    for (const [id, own] of days) {
      const moves = past.moves.get(id);
      const seen = own.map((one) => {
        const known = past.known(one.day);
        return { ...one, orders: one.orders * known, sales: one.sales * known };
      });
      days.set(
        id,
        moves ? daysAsPlayed(seen, moves, past.stoodBudget(id), responses?.get(id) ?? response) : seen,
      );
    }
  const ground: BudgetGround = {
    today,
    campaigns,
    days,
    caught: (campaignId) => caughtOf(skuOf(campaignId)),
    othersCpc: othersCpc(days, skuOf),
    changedOn: past
      ? past.changedOn('campaign', 'daily_budget')
      : await fieldChanged(sql, accountId, 'daily_budget'),
    guards: { ...budgetGuards, cooldownDays: input.guards.cooldownDays, minimumBudget },
    response,
    ...(responses ? { responses } : {}),
    research: new Set(campaigns.filter(isResearchCampaign).map(({ campaignId }) => campaignId)),
    since: firstDays(objects),
  };
  return {
    rows: new Map(budgetRows(ground).map((row) => [row.campaignId, row])),
    campaigns: new Map(campaigns.map((one) => [one.campaignId, one])),
    ground,
    marginOf: (sku) => (sku === null ? null : (products.get(sku)?.margin ?? null)),
  };
}

function effectOf({ marginOf }: JudgedBudgets, row: BudgetRow, chosen: BudgetOption) {
  const { clicks, clicksSpread } = row.lost;
  const share = clicks > 0 ? Math.min(1, clicksSpread / clicks) : 1;
  return effectOfBudget(chosen, row, share, marginOf(row.sku));
}

/** The lines that carry out one of the ways that were compared for a campaign. */
export function budgetDraftsBy(judged: JudgedBudgets, row: BudgetRow, chosen: BudgetOption): LineDraft[] {
  const note = { reason: sentenceOfBudget(row, chosen), effect: effectOf(judged, row, chosen) };
  return budgetDrafts(judged.campaigns.get(row.campaignId)!, chosen, note);
}

/** What a click of a product's other campaigns costs. */
function othersCpc(
  days: ReadonlyMap<string, readonly CampaignDay[]>,
  skuOf: (campaignId: string) => string | null,
): (campaignId: string) => Micros | null {
  const own = new Map<string, { clicks: number; spend: Micros }>();
  const products = new Map<string, { clicks: number; spend: Micros }>();
  for (const [campaignId, list] of days) {
    const sums = { clicks: 0, spend: 0 };
    for (const { clicks, spend } of list) {
      sums.clicks += clicks;
      sums.spend += spend;
    }
    own.set(campaignId, sums);
    const sku = skuOf(campaignId) ?? '';
    const known = products.get(sku) ?? { clicks: 0, spend: 0 };
    products.set(sku, { clicks: known.clicks + sums.clicks, spend: known.spend + sums.spend });
  }
  return (campaignId) => {
    const [mine, all] = [own.get(campaignId), products.get(skuOf(campaignId) ?? '')];
    const clicks = all && mine ? all.clicks - mine.clicks : 0;
    return clicks > 0 ? (all!.spend - mine!.spend) / clicks : null;
  };
}

const unknown = {
  kind: 'raise',
  bids: 1,
  own: 0,
  clicks: 0,
  spend: 0,
  orders: 0,
  sales: 0,
  worth: 0,
} as const;

/** The first day on which anything is known of each campaign. */
function firstDays({ campaigns, adGroups, targets }: Objects): Map<string, Day> {
  const first = new Map<string, Day>();
  for (const { adGroup, firstSeen } of targets) {
    if (firstSeen === null) continue;
    const { id } = campaigns[adGroups[adGroup]!.campaign]!;
    const known = first.get(id);
    if (known === undefined || firstSeen < known) first.set(id, firstSeen);
  }
  return first;
}
