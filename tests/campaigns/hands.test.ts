import { afterAll, beforeAll, expect, test } from 'vitest';
import { startStack, type Stack } from '../support/stack.ts';
import { playHands } from './hands.ts';

let stack: Stack;
beforeAll(async () => {
  stack = await startStack(true, { MOWING_BATCH_LINES: '20' });
});
afterAll(() => stack.stop());

test('three hands on one sheet, a hundred acts each: what each was told stands, and arrives once', async () => {
  const { lost, doubled, stranded, serverErrors, hangs, done, sheetsSent } = await playHands(
    stack,
    100,
    20261125,
  );
  expect({ lost, doubled, stranded, serverErrors, hangs }).toEqual({
    lost: [],
    doubled: [],
    stranded: [],
    serverErrors: [],
    hangs: [],
  });
  // Acts of most kinds were done, and at least one sheet left, so that it says something.
  expect(Object.keys(done).length).toBeGreaterThan(4);
  expect(sheetsSent).toBeGreaterThan(0);
});
