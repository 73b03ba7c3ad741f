import type { Guards } from '../bids/guards.ts';
import { ladderProblems } from '../bids/ladder.ts';
import { money, percent } from '../metrics/format.ts';
import { targetOf, type GuardSettings, type SetGoal } from './goals.ts';

/** Something that is wrong with a goal, at its field. */
export interface GoalProblem {
  field:
    'objective' | 'targetAcos' | 'targetMargin' | 'bidFloor' | 'bidCeiling' | 'ladder' | keyof GuardSettings;
  text: string;
  /** It may be meant: it is kept once it is confirmed. */
  asks: boolean;
}

/** What a goal is checked against. */
export interface GoalGround {
  /** Its place in words, such as "TT-LID4" or "the account". */
  place: string;
  /** Margin before ads of what it advertises, share of price; null where that is unknown or not one product's. */
  margin: number | null;
  /** What wider scopes say, and the account's usual ones. */
  wider: Pick<Guards, 'floor' | 'ceiling'>;
}

const bounds: Record<keyof GuardSettings, { least: number; most: number; says: string }> = {
  up: { least: 1.01, most: 10, says: 'The largest step up is 1.01 to 10 times the bid' },
  down: { least: 0.01, most: 0.99, says: 'The largest step down leaves 1 % to 99 % of the bid' },
  overHighestCpc: {
    least: 1,
    most: 20,
    says: 'A click may be expected to cost 1 to 20 times the highest CPC',
  },
  least: { least: 0, most: 0.5, says: 'Changes are dropped below 0 % to 50 %' },
  cooldownDays: { least: 0, most: 90, says: 'The cooldown is 0 to 90 days' },
};

/** Everything that is wrong with a goal as it would be set; none where it can be kept. */
export function goalProblems(goal: SetGoal, { place, margin, wider }: GoalGround): GoalProblem[] {
  const problems: GoalProblem[] = [];
  const say = (field: GoalProblem['field'], text: string, asks = false) =>
    void problems.push({ field, text, asks });
  const objective = goal.objective ?? (goal.targetAcos === null ? null : 'acos');
  if (objective === 'acos' && goal.targetAcos === null) say('targetAcos', 'It needs a target ACOS.');
  if (objective === 'margin' && goal.targetMargin == null) say('targetMargin', 'It needs a target margin.');
  if (goal.scope !== 'account' && (objective === 'margin' || objective === 'profit')) {
    if (margin === null)
      say('objective', `Costs of ${place} are not known, so its margin is not: tell its costs first.`);
    else if (margin <= 0)
      say(
        'objective',
        `${place} loses ${percent(-margin)} of its price on every order before any advertising: no margin can be aimed at.`,
      );
    else if (targetOf(goal, margin) === null)
      say(
        'targetMargin',
        `${place} has a margin of ${percent(margin)} before ads: ${percent(goal.targetMargin!)} after them leave nothing to advertise with.`,
      );
  }
  if (objective === 'acos' && goal.targetAcos !== null && margin !== null && goal.targetAcos > margin)
    say(
      'targetAcos',
      `${percent(goal.targetAcos)} lies above the break-even of ${place}, ${percent(margin)}: every order by an ad would lose money.`,
      true,
    );
  const floor = goal.bidFloor ?? wider.floor;
  const ceiling = goal.bidCeiling ?? wider.ceiling;
  if (floor > ceiling)
    say(
      goal.bidFloor === null ? 'bidCeiling' : 'bidFloor',
      `The floor, ${money(floor)}, would lie above the ceiling, ${money(ceiling)}.`,
    );
  for (const text of goal.ladder ? ladderProblems(goal.ladder) : []) say('ladder', text);
  for (const [name, value] of Object.entries(goal.guards ?? {}) as [keyof GuardSettings, number][]) {
    const { least, most, says } = bounds[name];
    if (!(value >= least && value <= most)) say(name, `${says}, not ${value}.`);
    else if (name === 'cooldownDays' && !Number.isInteger(value)) say(name, 'The cooldown is whole days.');
  }
  return problems;
}
