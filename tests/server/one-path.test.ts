import { afterAll, beforeAll, expect, test } from 'vitest';
import { callApi } from '../../scripts/lib/processes.ts';
import type { TableAnswer } from '../../src/answers/explore.ts';
import type { Finding } from '../../src/core/round/types.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** Round and Explore judge from one account in memory: what they say of a row is the same, whoever is asked. */

interface Round {
  window: { from: string; to: string };
  adGroups: Record<string, { name: string; campaign: string }>;
  findings: Finding[];
}

let stack: Stack;
let round: Round;
beforeAll(async () => {
  stack = await startStack(true);
  round = await callApi<Round>(stack.url, 'GET', '/api/1/round');
});
afterAll(() => stack.stop());

/** All rows of a level with their verdicts. */
async function rowsOf(level: 'targets' | 'terms', columns: string[]): Promise<TableAnswer['rows']> {
  const rows: TableAnswer['rows'] = [];
  for (let offset = 0; ; offset += 1000) {
    const page = await callApi<TableAnswer>(stack.url, 'POST', '/api/1/explore/table', {
      level,
      where: null,
      sort: null,
      descending: false,
      columns,
      window: round.window,
      comparison: { from: '2026-08-20', to: '2026-09-10' },
      offset,
      limit: 1000,
    });
    rows.push(...page.rows);
    if (rows.length >= page.count) return rows;
  }
}

test('every target of the queue has in Explore the verdict and the interval that Round gives it', async () => {
  const rows = new Map(
    (await rowsOf('targets', ['name', 'verdict', 'clicks', 'bid'])).map((row) => [row.key, row]),
  );
  const findings = round.findings.filter(({ queue }) => queue !== 'terms');
  expect(findings.length).toBeGreaterThan(300);
  for (const { targetId, subject, verdict, working, sums } of findings) {
    const row = rows.get(targetId)!;
    expect([subject, verdict, sums.clicks]).toEqual(row.values.slice(0, 3));
    expect(row.targetAcos).toBe(working.targetAcos);
    if (working.interval === null) expect(row.interval).toBeNull();
    else expect(row.interval!.low).toBeCloseTo(working.interval.low, 9);
  }
});

test('a term has one verdict in its ad group: the one of Round, whichever target caught it', async () => {
  const verdicts = new Map<string, Set<string>>();
  for (const { values } of await rowsOf('terms', ['name', 'ad_group', 'campaign', 'verdict'])) {
    const key = values.slice(0, 3).join('\t');
    verdicts.set(key, (verdicts.get(key) ?? new Set()).add(values[3] as string));
  }
  expect([...verdicts].filter(([, said]) => said.size > 1)).toEqual([]);
  const findings = round.findings.filter(
    ({ queue, proposal }) =>
      queue === 'terms' && !(proposal.kind === 'harvest' && proposal.alsoFrom.length > 0),
  );
  expect(findings.length).toBeGreaterThan(100);
  for (const { subject, adGroupId, verdict } of findings) {
    const { name, campaign } = round.adGroups[adGroupId]!;
    expect([subject, ...(verdicts.get([subject, name, campaign].join('\t')) ?? [])]).toEqual([
      subject,
      verdict,
    ]);
  }
});
