import { afterAll, beforeAll, describe } from 'vitest';
import { startQuayside, type Running } from '../../scripts/lib/processes.ts';
import { Quayside } from '../../src/server/marketplace/quayside.ts';
import { connectorContract } from '../support/connector-contract.ts';
import { makeDatabase } from '../support/stack.ts';

let quayside: Running;
beforeAll(async () => {
  quayside = await startQuayside({
    databaseUrl: await makeDatabase('quayside_seed'),
    scenario: process.env.MOWING_TEST_SCENARIO!,
    days: 0,
  });
});
afterAll(() => quayside.stop());

describe('Quayside', () => {
  connectorContract(
    () => new Quayside(quayside.url, 'quayside-demo'),
    () => new Quayside('http://127.0.0.1:9', 'quayside-demo'),
  );
});
