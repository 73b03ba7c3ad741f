import type { Mix, Mixes } from '../account/mix.ts';
import type { AdGroupInfo } from '../account/rows.ts';
import { defaultGuards, largestStep, within, type Guards, type Stance } from '../bids/guards.ts';
import { usualLadder, type Ladder } from '../bids/ladder.ts';
import type { Method } from '../bids/methods.ts';
import type { Micros } from '../metrics/money.ts';
import { mostTheta } from './theta.ts';

/** From the narrowest to the widest: the first that says something rules (issue of goals; domain, section 6.7). */
export const goalScopes = ['ad_group', 'campaign', 'product', 'account'] as const;
export type GoalScope = (typeof goalScopes)[number];

/**
 * What a scope aims at: most sales at a target ACOS; the same, told as the margin that ads must leave; or most profit,
 * where the last click may cost what it earns.
 */
export const objectives = ['acos', 'margin', 'profit'] as const;
export type Objective = (typeof objectives)[number];

/** Guards that a scope may set for itself. */
export type GuardSettings = Partial<
  Pick<Guards, 'up' | 'down' | 'overHighestCpc' | 'least' | 'cooldownDays'>
>;

export interface ScopeName {
  scope: GoalScope;
  /** '' for the account, a SKU, or the id of a campaign or an ad group. */
  key: string;
}

/** What was set for one scope. Null or left out: what the next wider scope says holds. */
export interface SetGoal extends ScopeName {
  /** Left out: `acos` where there is a target. */
  objective?: Objective | null;
  /** The account always has one: it rules where margins are not known. */
  targetAcos: number | null;
  /** Share of price that ads must leave. */
  targetMargin?: number | null;
  bidFloor: Micros | null;
  bidCeiling: Micros | null;
  stance?: Stance | null;
  method?: Method | null;
  ladder?: Ladder | null;
  guards?: GuardSettings | null;
  /** Theta of the scope at `thetaTarget`; moves with the target in proportion. */
  theta: number;
  /** The target that theta belongs to; left out: its target ACOS. */
  thetaTarget?: number;
  /** Theta may rise above 1. */
  aboveOne?: boolean;
}

/** Settings that are looked up each by itself. */
export const settings = ['bidFloor', 'bidCeiling', 'stance', 'method', 'ladder', 'guards'] as const;
export type Setting = (typeof settings)[number];

/** A goal as it holds somewhere; `scope` and `key` say whose target it is. */
export interface Goal extends ScopeName {
  objective: Objective;
  targetAcos: number;
  /** Share of price that ads must leave; null where nobody asked for one. */
  targetMargin: number | null;
  theta: number;
  bidFloor: Micros | null;
  bidCeiling: Micros | null;
  stance: Stance;
  method: Method;
  ladder: Ladder;
  guards: GuardSettings;
  /** Whose each setting is; null where nobody set it. */
  from: Record<Setting, ScopeName | null>;
}

/** Goals that stand for the same scope are one: theta and whatever is added up belong to it. */
export const scopeName = ({ scope, key }: ScopeName): string => `${scope}:${key}`;

const objectiveOf = ({ objective, targetAcos }: SetGoal): Objective | null =>
  objective ?? (targetAcos === null ? null : 'acos');

type Place = Pick<AdGroupInfo, 'campaignId' | 'sku'> & { adGroupId?: string | null };

/** Finds the goal of a place: each setting is the nearest one's that says it, the target with its theta together. */
export class Goals {
  private readonly set = new Map<string, SetGoal>();
  private readonly account: SetGoal;
  private readonly byMargin: boolean;
  private readonly known = new Map<string, Goal>();
  private readonly byAdGroup = new Map<string, Goal>();
  private readonly guarded = new Map<Goal, Guards>();

  /** `marginOf`: a product's margin before ads, share of price; null while its costs are unknown. */
  constructor(
    goals: readonly SetGoal[],
    private readonly guards: Guards = defaultGuards,
    private readonly marginOf: (sku: string) => number | null = () => null,
    /** What ad groups of several products really sell. */
    private readonly mixes: Mixes = new Map(),
  ) {
    const account = goals.find((goal) => goal.scope === 'account');
    if (account?.targetAcos == null) throw new Error('The account has no goal.');
    this.account = account;
    for (const goal of goals) this.set.set(scopeName(goal), goal);
    this.byMargin = goals.some((goal) => ['margin', 'profit'].includes(objectiveOf(goal) ?? ''));
  }

  of(place: Place): Goal {
    const { adGroupId } = place;
    if (adGroupId == null) return this.found(place);
    let goal = this.byAdGroup.get(adGroupId);
    if (!goal) {
      const mix = this.mixes.get(adGroupId);
      goal = mix ? this.blended(place, mix) : this.found(place);
      this.byAdGroup.set(adGroupId, goal);
    }
    return goal;
  }

  /**
   * The goal of an ad group that sells several products: that of the one it sells most, with target and theta by what is
   * sold. A unit of sales of each may cost its own theta at the margin, so one of all of them costs the mean by sales.
   */
  private blended(place: Place, mix: Mix): Goal {
    const parts = mix.map(({ sku, share }) => ({ goal: this.found({ ...place, sku }), share }));
    const main = parts[0]!.goal;
    if (parts.every(({ goal }) => goal === main)) return main;
    const mean = (of: (goal: Goal) => number) =>
      parts.reduce((sum, { goal, share }) => sum + share * of(goal), 0);
    return { ...main, targetAcos: mean((goal) => goal.targetAcos), theta: mean((goal) => goal.theta) };
  }

  private found({ adGroupId, campaignId, sku }: Place): Goal {
    const chain = [
      adGroupId == null ? undefined : this.set.get(`ad_group:${adGroupId}`),
      this.set.get(`campaign:${campaignId}`),
      sku === null ? undefined : this.set.get(`product:${sku}`),
      this.account,
    ].filter((goal) => goal !== undefined);
    if (chain.length === 1 && !this.byMargin) return this.kept('', chain, null);
    const names = chain.map(scopeName).join('\t');
    return this.kept(this.byMargin ? `${names}\t${sku ?? ''}` : names, chain, sku);
  }

  private kept(name: string, chain: readonly SetGoal[], sku: string | null): Goal {
    let goal = this.known.get(name);
    if (!goal) {
      const margin = this.byMargin && sku !== null ? this.marginOf(sku) : null;
      this.known.set(name, (goal = merged(chain, margin)));
    }
    return goal;
  }

  /** The guards of one goal, made once: they are asked for by every row. */
  guardsOf(goal: Goal): Guards {
    let known = this.guarded.get(goal);
    if (!known) this.guarded.set(goal, (known = guardsOf(goal, this.guards)));
    return known;
  }
}

/** What a set goal comes to for a product: its target ACOS; null where it says none, or its margin is unknown or too small. */
export function targetOf(goal: SetGoal, margin: number | null): number | null {
  switch (objectiveOf(goal)) {
    case null:
      return null;
    case 'acos':
      return goal.targetAcos;
    case 'margin':
    case 'profit': {
      const target =
        margin === null ? null : margin - (objectiveOf(goal) === 'margin' ? goal.targetMargin! : 0);
      return target !== null && target > 0 ? target : null;
    }
  }
}

function merged(chain: readonly SetGoal[], margin: number | null): Goal {
  const account = chain.at(-1)!;
  const aims = chain.find((goal) => targetOf(goal, margin) !== null) ?? account;
  const ruled = targetOf(aims, margin);
  const objective = ruled === null ? 'acos' : objectiveOf(aims)!;
  const targetAcos = ruled ?? account.targetAcos!;
  const from = Object.fromEntries(
    settings.map((name) => {
      const own = chain.find((goal) => goal[name] != null);
      return [name, own ? { scope: own.scope, key: own.key } : null];
    }),
  ) as Goal['from'];
  const first = <K extends Setting>(name: K): SetGoal[K] =>
    chain.find((goal) => goal[name] != null)?.[name] ?? null!;
  return {
    scope: aims.scope,
    key: aims.key,
    objective,
    targetAcos,
    targetMargin: objective === 'margin' ? aims.targetMargin! : null,
    theta: objective === 'profit' ? targetAcos : thetaFor(aims, targetAcos),
    bidFloor: first('bidFloor'),
    bidCeiling: first('bidCeiling'),
    stance: first('stance') ?? 'even',
    method: first('method') ?? 'evidence',
    ladder: first('ladder') ?? usualLadder,
    guards: first('guards') ?? {},
    from,
  };
}

/** Theta of a scope at a target of one of its products. */
function thetaFor({ theta, thetaTarget, targetAcos, aboveOne }: SetGoal, target: number): number {
  const at = thetaTarget ?? targetAcos ?? target;
  return at === target ? theta : Math.min((theta * target) / at, mostTheta(target, aboveOne ?? false));
}

/** The guards of one goal: what it sets in place of the account's. */
export const guardsOf = (
  { stance, guards: own, bidFloor, bidCeiling }: Pick<Goal, 'stance' | 'guards' | 'bidFloor' | 'bidCeiling'>,
  guards: Guards = defaultGuards,
): Guards =>
  within(
    {
      ...guards,
      ...largestStep[stance],
      ...own,
      floor: bidFloor ?? guards.floor,
      ceiling: bidCeiling ?? guards.ceiling,
    },
    guards.narrower,
  );
