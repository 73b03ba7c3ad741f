import { addDays, daysBetween, type Day } from '../metrics/days.ts';
import { counted, percent, signedMoney, significant } from '../metrics/format.ts';
import type { Comparison } from './compare.ts';
import type { HarmLook } from './harm.ts';

/** Changes that are tried where they can be compared, and what came of them (domain, section 17). */

/** What decides a trial: gain against the goal, profit by the margin, or ad sales. */
export const decidingFigures = ['gain', 'profit', 'sales'] as const;
export type DecidingFigure = (typeof decidingFigures)[number];
export const decidingNames: Readonly<Record<DecidingFigure, string>> = {
  gain: 'gain against the goal',
  profit: 'ad profit',
  sales: 'ad sales',
};

/** What it is compared with: campaigns that nobody touches, or, of schedules, the same hours of other weekdays. */
export const trialControls = ['campaigns', 'weekdays'] as const;
export type TrialControl = (typeof trialControls)[number];
export const controlNames: Readonly<Record<TrialControl, string>> = {
  campaigns: 'campaigns that stand still',
  weekdays: 'the same hours of other weekdays',
};

/** Planned: its lines wait on the sheet. Over: its days are past and have settled. Ended: somebody has decided. */
export type TrialState = 'planned' | 'unsent' | 'running' | 'settling' | 'over' | 'kept' | 'taken_back';

export interface TrialPlan {
  name: string;
  /** Days that it lasts, from the day after it was sent. */
  days: number;
  deciding: DecidingFigure;
  control: TrialControl;
  /** Part of the orders that may be lost, 0 to 1; null: not looked at. */
  harmOrders: number | null;
  /** Positions by which the organic rank may fall; null: not looked at. */
  harmRank: number | null;
}

/** Where a trial stands. `sentOn`: when its lines were applied; null while they wait. */
export function trialState(
  { days, decided }: Pick<TrialPlan, 'days'> & { decided: 'kept' | 'taken_back' | null },
  { sentOn, waits }: { sentOn: Day | null; waits: boolean },
  today: Day,
  settledTo: Day,
): TrialState {
  if (decided !== null) return decided;
  if (sentOn === null) return waits ? 'planned' : 'unsent';
  const end = addDays(sentOn, days);
  return settledTo >= end ? 'over' : today > end ? 'settling' : 'running';
}

/** What something touches: a whole campaign, or one object within it. */
export interface Touch {
  campaignId: string;
  /** Null: all of the campaign. */
  object: string | null;
}

/** What a line touches: what is made, and what stands for all of a campaign, moves the whole of it. */
export const touchOf = (line: {
  action: string;
  entity: string;
  campaignId: string;
  adGroupId: string | null;
  objectId: string | null;
}): Touch => {
  const isOne = line.action !== 'create' && line.objectId !== null;
  const isPart = line.entity === 'target' || line.entity === 'ad_group';
  return { campaignId: line.campaignId, object: isOne && isPart ? `${line.entity}:${line.objectId!}` : null };
};

/** Two trials of one object would each count what the other did. */
export const clashes = (a: Touch, b: Touch): boolean =>
  a.campaignId === b.campaignId && (a.object === null || b.object === null || a.object === b.object);

/** How surely what decides must have moved before it is said. */
export const sure = 0.9;

export type TrialVerdict = 'better' | 'worse' | 'undecided' | 'harm';

/** What speaks for keeping it, or against. */
export function verdictOf(
  compared: Comparison | null,
  harm: HarmLook | null,
  rankFell: boolean,
): TrialVerdict {
  if (harm?.sureOn != null || rankFell) return 'harm';
  if (!compared?.decided) return 'undecided';
  return compared.better >= sure ? 'better' : compared.better <= 1 - sure ? 'worse' : 'undecided';
}

/** Its result in a sentence. */
export function resultSaid(
  deciding: DecidingFigure,
  compared: Comparison | null,
  harm: HarmLook | null,
  harmOrders: number | null,
): string {
  const said: string[] = [];
  if (harm?.sureOn != null && harmOrders !== null)
    said.push(
      `It does harm: orders are at ${percent(harm.ratio)} of what was expected, surely down by more than ${percent(harmOrders)}, since day ${harm.sureOn}.`,
    );
  if (compared?.decided) {
    const { value, low, high } = compared.decided;
    const { before, after } = compared.weeks;
    said.push(
      `${decidingNames[deciding].replace(/^./, (first) => first.toUpperCase())}: ${signedMoney(value)} a week (${signedMoney(low)} to ${signedMoney(high)}), ` +
        `${counted(after, 'week')} beside ${counted(before, 'week')} before; better with ${percent(Math.min(0.99, Math.max(0.01, compared.better)))}.`,
    );
  } else said.push('No whole settled week has passed since: nothing can be said yet.');
  if (harm && harm.sureOn === null && harm.ratio !== null)
    said.push(`Orders are at ${significant(harm.ratio)} times what was expected: no harm that is sure.`);
  return said.join(' ');
}

/** What is wrong with a plan, as a sentence with its field; null when it can be tried. */
export function planProblem(plan: TrialPlan): { field: string; message: string } | null {
  if (plan.name.trim() === '' || plan.name.length > 80)
    return { field: 'name', message: 'A trial has a name of 1 to 80 characters.' };
  if (!Number.isInteger(plan.days) || plan.days < 7 || plan.days > 84)
    return { field: 'days', message: 'A trial lasts 7 to 84 days: weeks are compared with weeks.' };
  if (plan.harmOrders !== null && !(plan.harmOrders > 0 && plan.harmOrders < 1))
    return {
      field: 'harmOrders',
      message: 'Orders that may be lost are a part of them, between 0 and 100 %.',
    };
  if (plan.harmRank !== null && !(plan.harmRank > 0 && plan.harmRank <= 50))
    return { field: 'harmRank', message: 'Positions that may be lost lie between 0 and 50.' };
  return null;
}

/** Days that have passed of a trial. */
export const daysRun = (sentOn: Day, days: number, today: Day): number =>
  Math.max(0, Math.min(days, daysBetween(sentOn, today)));
