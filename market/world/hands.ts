import type { Scenario } from '../scenario.ts';
import { limits, type Structure, type Target } from './account.ts';
import { stream } from './random.ts';

/**
 * What somebody does at the marketplace by hand on a day, without telling anybody: now and then the bid of one target
 * becomes another. `hands` of the scenario is how often a day, from `movesFrom` on. Deterministic from seed, day and
 * settings.
 */
export function changedByHand(scenario: Scenario, structure: Structure, day: string): Target[] {
  const { hands = 0, movesFrom, seed } = scenario;
  if (hands <= 0 || (movesFrom !== undefined && day < movesFrom)) return [];
  const random = stream(seed, `hands ${day}`);
  if (random() >= hands) return [];
  const targets = [...structure.targets.values()].filter(({ status }) => status === 'enabled');
  const target = targets[Math.floor(random() * targets.length)];
  if (!target) return [];
  const steps = Math.round((target.bid * (0.6 + random())) / limits.bid_step);
  const bid = Math.max(limits.minimum_bid, Math.round(steps * limits.bid_step * 100) / 100);
  return bid === target.bid ? [] : [{ ...target, bid }];
}
