import { afterAll, beforeAll, expect, test } from 'vitest';
import { startStack, type Stack } from '../support/stack.ts';
import { playFiles } from './files.ts';

let stack: Stack;
beforeAll(async () => {
  stack = await startStack(false);
});
afterAll(() => stack.stop());

test('60 damaged files: each row counted once, nothing half-applied, no error of ours, none hangs', async () => {
  const { serverErrors, hangs, unbalanced, halfApplied, loaded, refused } = await playFiles(
    stack.url,
    stack.databaseUrl,
    60,
    20261125,
  );
  expect({ serverErrors, hangs, unbalanced, halfApplied }).toEqual({
    serverErrors: [],
    hangs: [],
    unbalanced: [],
    halfApplied: [],
  });
  // Some of each, so that it says something.
  expect(Math.min(loaded, refused)).toBeGreaterThan(5);
});
