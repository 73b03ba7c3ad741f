import type { Micros } from '../metrics/money.ts';
import type { AdGroupInfo } from '../account/rows.ts';
import { defaultGuards, largestStep, type Guards, type Stance } from '../bids/guards.ts';

/** Finds the goal of an ad group: its campaign's, else its product's, else the account's. */
export class Goals {
  private readonly bySku = new Map<string, Goal>();
  private readonly byCampaign = new Map<string, Goal>();
  private readonly account: Goal;

  private readonly guarded = new Map<Goal, Guards>();

  constructor(
    goals: readonly Goal[],
    private readonly guards: Guards = defaultGuards,
  ) {
    const account = goals.find((goal) => goal.scope === 'account');
    if (!account) throw new Error('The account has no goal.');
    this.account = account;
    for (const goal of goals) {
      if (goal.scope === 'product') this.bySku.set(goal.key, goal);
      if (goal.scope === 'campaign') this.byCampaign.set(goal.key, goal);
    }
  }

  of(adGroup: Pick<AdGroupInfo, 'campaignId' | 'sku'>): Goal {
    return this.byCampaign.get(adGroup.campaignId) ?? this.bySku.get(adGroup.sku ?? '') ?? this.account;
  }

  /** The guards of one goal, made once: they are asked for by every row. */
  guardsOf(goal: Goal): Guards {
    let known = this.guarded.get(goal);
    if (!known) this.guarded.set(goal, (known = guardsOf(goal, this.guards)));
    return known;
  }
}

/** The guards of one goal: its floor and ceiling in place of the account's. */
export const guardsOf = (goal: Goal, guards: Guards = defaultGuards): Guards => ({
  ...guards,
  ...(goal.stance ? largestStep[goal.stance] : {}),
  floor: goal.bidFloor ?? guards.floor,
  ceiling: goal.bidCeiling ?? guards.ceiling,
});

export type GoalScope = 'account' | 'product' | 'campaign';

export interface Goal {
  scope: GoalScope;
  /** '' for the account, a SKU, or a campaign's id. */
  key: string;
  targetAcos: number;
  bidFloor: Micros | null;
  bidCeiling: Micros | null;
  theta: number;
  stance?: Stance;
}
