import type { BudgetRow } from '../budgets/rows.ts';
import { splitGround, type BudgetGroup, type BudgetLimit } from '../budgets/rules.ts';
import { partOf, splitter, splitProblem, type SplitMember } from '../budgets/split.ts';
import { acos } from '../metrics/figures.ts';
import { addDays, daysBetween, type Day } from '../metrics/days.ts';
import { counted, money, percent } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';

/**
 * One budget that runs by itself (domain, section 9): research finds terms, tuning brings each campaign into a range,
 * earning gives the most money to what is in it.
 */

export const stages = ['research', 'tuning', 'earning'] as const;
export type Stage = (typeof stages)[number];
export const stageNames: Readonly<Record<Stage, string>> = {
  research: 'Research',
  tuning: 'Tuning',
  earning: 'Earning',
};

export interface StageSettings {
  /** What the range is told in: ACOS, or what is left of sales after costs and ads. Shares. */
  measure: 'acos' | 'margin';
  from: number;
  to: number;
  /** Of the total without research, what tuning has. */
  tuning: number;
  /** Days out of the range after which a campaign goes back to tuning. */
  outDays: number;
  /** Orders without which nothing is said of a campaign. */
  leastOrders: number;
}

export const usualStages: StageSettings = {
  measure: 'acos',
  from: 0,
  to: 0.3,
  tuning: 0.35,
  outDays: 14,
  leastOrders: 5,
};

/** What is wrong with them, and which: null where nothing is. */
export function stagesProblem(rules: StageSettings): { field: string; message: string } | null {
  const { from, to, tuning, outDays, leastOrders } = rules;
  if (!(from >= -1 && to <= 2 && from < to))
    return { field: 'stages.to', message: 'The range goes from a smaller share to a larger one.' };
  if (!(tuning > 0 && tuning < 1))
    return {
      field: 'stages.tuning',
      message: 'Tuning has a share over 0 and under 100 % of what research leaves.',
    };
  if (!(Number.isInteger(outDays) && outDays >= 1 && outDays <= 60))
    return { field: 'stages.outDays', message: 'It goes back after 1 to 60 days out of its range.' };
  if (!(Number.isInteger(leastOrders) && leastOrders >= 1 && leastOrders <= 1000))
    return { field: 'stages.leastOrders', message: 'It is judged from 1 to 1,000 orders on.' };
  return null;
}

/** Where a campaign stands. */
export interface Standing {
  stage: Stage;
  since: Day;
  outSince: Day | null;
}

export interface StagedCampaign {
  campaignId: string;
  name: string;
  was: Standing | null;
  now: Standing;
  /** In the measure of the range; null without sales, or where its costs are unknown. */
  at: number | null;
  /** Why it stands there, with its numbers. */
  why: string;
}

type Row = Pick<BudgetRow, 'campaignId' | 'name' | 'sku' | 'isResearch' | 'sums'>;

/** What is measured of a campaign: share of sales; null where it cannot be told. */
export function measureOf(
  { measure }: StageSettings,
  { sums }: Pick<Row, 'sums'>,
  margin: number | null,
): number | null {
  const share = acos(sums);
  if (share === null) return null;
  return measure === 'acos' ? share : margin === null ? null : margin - share;
}

/** Where a campaign stands today by where it stood, and why. */
export function nextStage(
  rules: StageSettings,
  row: Row,
  was: Standing | null,
  margin: number | null,
  today: Day,
): StagedCampaign {
  const { campaignId, name, isResearch, sums } = row;
  const at = measureOf(rules, row, margin);
  const about = { campaignId, name, was, at };
  const at_ = (stage: Stage, outSince: Day | null = null): Standing => ({
    stage,
    since: was?.stage === stage ? was.since : today,
    outSince,
  });
  const word = rules.measure === 'acos' ? 'ACOS' : 'margin after ads';
  const range = `${percent(rules.from)} to ${percent(rules.to)}`;
  if (isResearch) return { ...about, now: at_('research'), why: 'Its targets find terms and items.' };
  const stage = was?.stage === 'earning' ? 'earning' : 'tuning';
  if (sums.orders < rules.leastOrders)
    return {
      ...about,
      now: at_(stage, was?.outSince ?? null),
      why: `${counted(sums.orders, 'order')} say too little; ${rules.leastOrders} are asked for.`,
    };
  if (at === null)
    return {
      ...about,
      now: at_(stage, was?.outSince ?? null),
      why: `Its ${word} cannot be told: what it sells has no costs.`,
    };
  const said = `${word} ${percent(at)}`;
  if (at >= rules.from && at <= rules.to)
    return { ...about, now: at_('earning'), why: `${said} lies within ${range}.` };
  if (stage === 'tuning') return { ...about, now: at_('tuning'), why: `${said} lies outside ${range}.` };
  const outSince = was!.outSince ?? today;
  const out = daysBetween(outSince, today);
  return out >= rules.outDays
    ? {
        ...about,
        now: at_('tuning'),
        why: `${said} has been outside ${range} since ${outSince}, ${counted(out, 'day')}.`,
      }
    : {
        ...about,
        now: at_('earning', outSince),
        why: `${said} lies outside ${range} since ${outSince}; it goes back on ${addDays(outSince, rules.outDays)}.`,
      };
}

/** A budget that stages ask for. Money in micros, a day; sales a week. */
export interface StageBudget {
  campaignId: string;
  name: string;
  stage: Stage;
  from: Micros;
  to: Micros;
  /** Change of a week. */
  spend: Micros;
  sales: Micros;
  sentence: string;
}

/** What a group has by stage. Money in micros, a day. */
export interface StageShare {
  stage: Stage;
  money: Micros;
  campaigns: number;
}

/** Budgets that change by less than this are left. */
const leastMove = 0.1;
/** A budget moves by so much at once at most, up or down. */
const mostStep = 2;

/** The money of each stage: research its share with its cap, tuning and earning the rest; a stage without campaigns none. */
export function sharesOf(
  total: Micros,
  research: { share: number; cap: Micros | null },
  tuning: number,
  counts: Readonly<Record<Stage, number>>,
): StageShare[] {
  const rests = counts.tuning + counts.earning;
  const kept =
    counts.research === 0
      ? 0
      : rests === 0
        ? total
        : Math.min(research.share * total, research.cap ?? Infinity);
  const rest = total - kept;
  const forTuning = counts.tuning === 0 ? 0 : counts.earning === 0 ? rest : tuning * rest;
  const money: Record<Stage, Micros> = { research: kept, tuning: forTuning, earning: rest - forTuning };
  return stages.map((stage) => ({
    stage,
    money: counts[stage] === 0 ? 0 : money[stage],
    campaigns: counts[stage],
  }));
}

/** Kept for research where the group's rule says nothing (domain, section 9: a quarter, at most 20.00 a day). */
export const usualResearch = { share: 0.25, cap: 20_000_000 };

/**
 * What the stages of a group make of its budgets: within each stage the next unit of money sells the same everywhere, and
 * new campaigns have their grace.
 *
 * @param minimum The marketplace's least daily budget, micros.
 */
export function stageBudgets(
  rules: StageSettings,
  group: BudgetGroup,
  rows: readonly BudgetRow[],
  staged: readonly StagedCampaign[],
  limits: ReadonlyMap<string, BudgetLimit>,
  minimum: Micros,
  today: Day,
): { shares: StageShare[]; budgets: StageBudget[] } {
  const stageOf = new Map(staged.map(({ campaignId, now }) => [campaignId, now.stage]));
  const { members, rules: split } = splitGround(group, rows, limits, minimum, today);
  const own = members.filter(({ campaignId }) => stageOf.has(campaignId));
  const byStage = (stage: Stage) => own.filter(({ campaignId }) => stageOf.get(campaignId) === stage);
  const counts = { research: 0, tuning: 0, earning: 0 };
  for (const stage of stages) counts[stage] = byStage(stage).length;
  const shares = sharesOf(
    split.total,
    { share: split.researchShare ?? usualResearch.share, cap: split.researchCap ?? usualResearch.cap },
    rules.tuning,
    counts,
  );
  const nameOf = new Map(rows.map(({ campaignId, name }) => [campaignId, name]));
  const whyOf = new Map(staged.map(({ campaignId, why }) => [campaignId, why]));
  const budgets = shares.flatMap(({ stage, money: share }) =>
    splitStage(byStage(stage), stage, share).flatMap(([member, wanted]): StageBudget[] => {
      const to = toCent(
        Math.max(member.least, Math.min(Math.max(wanted, member.now / mostStep), member.now * mostStep)),
      );
      if (Math.abs(to - member.now) < leastMove * member.now) return [];
      const [before, after] = [partOf(member, member.now), partOf(member, to)];
      const name = nameOf.get(member.campaignId)!;
      return [
        {
          campaignId: member.campaignId,
          name,
          stage,
          from: member.now,
          to,
          spend: 7 * (after.spend - before.spend),
          sales: 7 * (after.sales - before.sales),
          sentence:
            `${stageNames[stage]}: ${whyOf.get(member.campaignId)!} The stage has ${money(share)} a day for ` +
            `${counted(counts[stage], 'campaign')}; ${money(member.now)} becomes ${money(to)}.`,
        },
      ];
    }),
  );
  return { shares, budgets };
}

const toCent = (budget: Micros): Micros => Math.floor(budget / 10_000 + 1e-6) * 10_000;

/** A stage's money over its campaigns; what none of them can spend is spread alike, for a budget is a rail. */
function splitStage(members: readonly SplitMember[], stage: Stage, share: Micros): [SplitMember, Micros][] {
  if (members.length === 0) return [];
  // What is over its goal is not kept small here: tuning is where it is brought back, research finds what sells.
  const open = stage === 'earning' ? members : members.map((one) => ({ ...one, most: null, isOver: false }));
  const rules = { total: share, researchShare: null, researchCap: null };
  if (splitProblem(open, rules) !== null)
    // The leasts alone are more than the stage has: each has its least.
    return open.map((member) => [member, member.least]);
  const { parts, free } = splitter(open, rules)();
  const more = free / members.length;
  return parts.map(({ budget }, at) => {
    const member = open[at]!;
    return [member, toCent(Math.min(member.most ?? Infinity, budget + more))];
  });
}
