import type { Campaign, Structure } from './account.ts';

/** What money the world remembers from day to day. */
export interface Purse {
  /** Prepaid money that is left; undefined or null where the account pays afterwards. */
  wallet?: number | null;
  /** What campaigns with a lifetime budget have spent of it so far, by id. */
  lifetimeSpent?: Record<string, number>;
}

/** What a day's clicks have cost so far, by id. */
export interface Spent {
  campaigns: Record<string, number>;
  groups: Record<string, number>;
}

const daysLeft = (day: string, last: string | null): number =>
  last === null ? 1 : Math.max(1, Math.round((Date.parse(last) - Date.parse(day)) / 864e5) + 1);

export const runs = (object: { startDate?: string | null; endDate?: string | null }, day: string): boolean =>
  (object.startDate ?? '') <= day && (object.endDate ?? day) >= day;

/** Which campaigns have money left while a day is lived: of their own, of their group, in the wallet. */
export class DayBudgets {
  private readonly spent: Map<string, number>;
  private readonly groupSpent: Map<string, number>;
  private readonly groupBudget: Map<string, number>;
  private total = 0;
  /** Part of the day's demand that lies before the end of this hour. */
  private soFar: number;
  /** Campaigns that may show now. */
  readonly open: Set<Campaign>;
  private readonly paced: Campaign[];
  private readonly forLife: ReadonlySet<string>;

  /**
   * `hourShares`: the 24 hours' parts of a day's demand, in any unit; `hour`: the one that comes; `before`: what the hours
   * until then have cost.
   */
  constructor(
    structure: Structure,
    private readonly purse: Purse,
    private readonly day: string,
    private readonly hourShares: readonly number[],
    hour: number,
    before: Spent,
  ) {
    this.soFar = this.shareUntil(hour);
    this.spent = new Map(Object.entries(before.campaigns));
    this.groupSpent = new Map(Object.entries(before.groups));
    this.groupBudget = new Map(structure.budgetGroups.map((group) => [group.id, group.dailyBudget]));
    const running = [...structure.campaigns.values()].filter((one) => runs(one, day));
    this.paced = running.filter(({ pacing }) => pacing === 'even');
    this.forLife = new Set(running.filter((one) => one.budgetKind === 'lifetime').map(({ id }) => id));
    this.open = new Set(running.filter((one) => this.hasBudget(one)));
  }

  private shareUntil(hour: number): number {
    const sum = (shares: readonly number[]) => shares.reduce((a, b) => a + b);
    return sum(this.hourShares.slice(0, hour + 1)) / sum(this.hourShares);
  }

  /** What a campaign may have spent of this day by the end of this hour. */
  private allowance(campaign: Campaign): number {
    const { budgetKind, lifetimeBudget, dailyBudget, pacing, endDate, id } = campaign;
    const isEven = pacing === 'even';
    let whole = dailyBudget;
    if (budgetKind === 'lifetime') {
      const left = (lifetimeBudget ?? 0) - (this.purse.lifetimeSpent?.[id] ?? 0);
      whole = isEven ? left / daysLeft(this.day, endDate) : left;
    }
    return isEven ? whole * this.soFar : whole;
  }

  private hasBudget(campaign: Campaign): boolean {
    const { id, budgetGroup } = campaign;
    return (
      (this.purse.wallet == null || this.total < this.purse.wallet) &&
      (this.spent.get(id) ?? 0) < this.allowance(campaign) &&
      (budgetGroup === null || (this.groupSpent.get(budgetGroup) ?? 0) < this.groupBudget.get(budgetGroup)!)
    );
  }

  /** Begins an hour; says which campaigns have money again, since theirs is parted over the day. */
  startHour(hour: number): Campaign[] {
    if (this.paced.length === 0) return [];
    this.soFar = this.shareUntil(hour);
    const again = this.paced.filter((one) => !this.open.has(one) && this.hasBudget(one));
    for (const one of again) this.open.add(one);
    return again;
  }

  /** Takes the price of a click; says which campaigns have nothing left by it. */
  spend(campaign: Campaign, cpc: number): Campaign[] {
    const { id, budgetGroup: group } = campaign;
    this.total += cpc;
    this.spent.set(id, (this.spent.get(id) ?? 0) + cpc);
    if (group) this.groupSpent.set(group, (this.groupSpent.get(group) ?? 0) + cpc);
    const isEmpty = this.purse.wallet != null && this.total >= this.purse.wallet;
    const touched = group || isEmpty ? [...this.open] : [campaign];
    const closed = touched.filter(
      (one) =>
        (one === campaign || isEmpty || one.budgetGroup === group) &&
        this.open.has(one) &&
        !this.hasBudget(one),
    );
    for (const one of closed) this.open.delete(one);
    return closed;
  }

  /** Takes what has been spent since the day began, or was paused last, out of the wallet. */
  pause(): Spent {
    if (this.purse.wallet != null)
      this.purse.wallet = Math.round((this.purse.wallet - this.total) * 100) / 100;
    this.total = 0;
    return { campaigns: Object.fromEntries(this.spent), groups: Object.fromEntries(this.groupSpent) };
  }

  /** Keeps what was spent, when the day is over. */
  close(): void {
    this.pause();
    for (const [id, spent] of this.spent) {
      if (!this.forLife.has(id)) continue;
      const lifetime = (this.purse.lifetimeSpent ??= {});
      lifetime[id] = Math.round(((lifetime[id] ?? 0) + spent) * 100) / 100;
    }
  }
}
