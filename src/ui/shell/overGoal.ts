import type { OpenSheet } from '../../answers/changes.ts';

const share = (value: number): string => `${(100 * value).toFixed(1)} %`;

/** What the sheet would do to a scope with a goal, as a sentence. */
export function overGoalText({
  scope,
  name,
  targetAcos,
  before,
  after,
}: OpenSheet['overGoal'][number]): string {
  const what = scope === 'account' ? 'the account' : scope === 'product' ? `${name}` : `the campaign ${name}`;
  const goal = `its goal of ${share(targetAcos).replace('.0 ', ' ')}`;
  return before <= targetAcos
    ? `These lines together take ${what} from ${share(before)} to ${share(after)}, over ${goal}.`
    : `These lines together take ${what} further over ${goal}: from ${share(before)} to ${share(after)}.`;
}
