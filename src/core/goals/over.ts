import type { Micros } from '../metrics/money.ts';
import type { Goal, GoalScope } from './goals.ts';

/** A week's spend and sales, micros. */
export interface Week {
  spend: Micros;
  sales: Micros;
}

/** A scope that changes together would put over its goal, or further over it: ACOS as shares, a week each. */
export interface OverGoal {
  scope: GoalScope;
  key: string;
  targetAcos: number;
  before: number;
  after: number;
}

/** Less than this, a share of the goal, is nothing to speak of. */
const least = 0.005;

/**
 * Scopes whose ACOS the changes raise beyond their goal, those furthest over it first.
 * For example: over 26 %: from 23.9 % (2,390.00 of 10,000.00) by +600.00 spend and +1,075.00 sales to 27.0 %
 *
 * @param scopes Each goal with a week of what it rules as it runs, and what the changes do to it.
 */
export function scopesOverGoal(
  scopes: Iterable<{ goal: Pick<Goal, 'scope' | 'key' | 'targetAcos'>; week: Week; change: Week }>,
): OverGoal[] {
  const found: OverGoal[] = [];
  for (const { goal, week, change } of scopes) {
    const [spend, sales] = [week.spend + change.spend, week.sales + change.sales];
    if (week.sales <= 0 || sales <= 0 || spend <= 0) continue;
    const [before, after] = [week.spend / week.sales, spend / sales];
    const { scope, key, targetAcos } = goal;
    if (after > targetAcos * (1 + least) && after > before * (1 + least))
      found.push({ scope, key, targetAcos, before, after });
  }
  return found.sort((a, b) => b.after / b.targetAcos - a.after / a.targetAcos);
}
