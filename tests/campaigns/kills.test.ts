import { afterAll, beforeAll, expect, test } from 'vitest';
import { startStack, type Stack } from '../support/stack.ts';
import { playKills } from './kills.ts';

let stack: Stack;
beforeAll(async () => {
  stack = await startStack(true, { MOWING_BATCH_LINES: '10' });
});
afterAll(() => stack.stop());

test('8 kills in the middle of works: nothing lost, nothing twice, nothing half-applied, all come to their end', async () => {
  const { lost, doubled, halfApplied, hangs, serverErrors, works } = await playKills(stack, 8, 20261125);
  expect({ lost, doubled, halfApplied, hangs, serverErrors }).toEqual({
    lost: [],
    doubled: [],
    halfApplied: [],
    hangs: [],
    serverErrors: [],
  });
  // Each work fell at least once, so that it says something.
  expect(Object.values(works).every(({ kills }) => kills > 0)).toBe(true);
}, 300_000);
