import { afterAll, beforeAll, expect, test } from 'vitest';
import { startStack, type Stack } from '../support/stack.ts';
import { playLoad } from './load.ts';

let stack: Stack;
beforeAll(async () => {
  stack = await startStack(true);
});
afterAll(() => stack.stop());

test('thirty readers and one who works, for eight seconds: every call is answered, none hangs', async () => {
  const { errors, hangs, calls } = await playLoad(stack.url, 30, 8, true);
  expect({ errors, hangs }).toEqual({ errors: [], hangs: [] });
  expect(calls).toBeGreaterThan(100);
});
