import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import postgres from 'postgres';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type { QueueAnswer, WiderAnswer } from '../../src/answers/round.ts';
import type { BudgetsAnswer, ReadBudgets } from '../../src/answers/spend.ts';
import { budgetKey } from '../../src/core/budgets/lines.ts';
import { emptyRule, splitGround } from '../../src/core/budgets/rules.ts';
import { splitter } from '../../src/core/budgets/split.ts';
import { micros } from '../../src/core/metrics/money.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';
import { startStack, structureOf, type Stack } from '../support/stack.ts';

/** Budgets: read from hours, proposed, split, set by hand and by file, to the marketplace and back. */

let stack: Stack;
let sql: postgres.Sql;
let window: { from: string; to: string };
beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1 });
  const { window: judged } = await call<QueueAnswer>('GET', 'round/queue');
  window = judged!;
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/1/${path}`, body);
const budgets = () => call<BudgetsAnswer>('GET', `spend/budgets?from=${window.from}&to=${window.to}`);
const set = (list: { campaignId: string; budget: number }[], source = 'hand') =>
  call<{ lines: number; groups: string[] }>('POST', 'spend/budgets', { ...window, budgets: list, source });
const accept = (keys: string[], adjustments: object = {}) =>
  call<{ groups: string[]; lines: number }>('POST', 'round/accept', { ...window, keys, adjustments });
const empty = async () => {
  const { lines } = await openSheetOf(stack.url);
  if (lines.length > 0) await call('POST', 'sheet/lines', { lineIds: lines.map(({ line_id: id }) => id) });
};
const problemOf = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'it was taken',
    (error: Error) => error.message,
  );
const read = async (text: string): Promise<ReadBudgets> => {
  const response = await fetch(`${stack.url}/api/1/spend/budgets/file`, { method: 'POST', body: text });
  return (await response.json()) as ReadBudgets;
};

describe('what budgets had', () => {
  test('days, minutes and sums are those of the hours', async () => {
    const { campaigns } = await budgets();
    const rows = await sql<{ id: string; day: string; spend: number; minutes: number }[]>`
      select campaign_id::text as id, day::text, sum(spend)::float8 as spend, sum(minutes_in_budget)::int as minutes
      from campaign_hour where account_id = 1 and day between ${window.from} and ${window.to} group by 1, 2 order by 2`;
    expect(campaigns.length).toBeGreaterThan(40);
    for (const { campaignId, days, sums, full, shown, lost } of campaigns) {
      const own = rows.filter(({ id }) => id === campaignId);
      expect(days).toEqual(own.map(({ day, spend, minutes }) => ({ day, spend, minutes })));
      expect(sums.spend).toBe(own.reduce((sum, { spend }) => sum + spend, 0));
      full.forEach((spend, at) => expect(spend).toBeGreaterThanOrEqual(days[at]!.spend - 1));
      // Whose budget always lasted missed nothing.
      const lasted = own.every(({ minutes }) => minutes === 1440);
      expect(lost.clicks > 0).toBe(!lasted && sums.clicks > 0);
      if (lasted) expect(shown).toBeCloseTo(1);
    }
  });

  test('they wait in the round, and in Spend first', async () => {
    const { campaigns } = await budgets();
    const found = campaigns.filter(({ isFinding }) => isFinding);
    expect(found.length).toBeGreaterThan(0);
    expect(campaigns.slice(0, found.length).every(({ isFinding }) => isFinding)).toBe(true);
    const { findings } = await call<WiderAnswer>('GET', `round/wider?from=${window.from}&to=${window.to}`);
    expect(new Set(findings.filter(({ queue }) => queue === 'budgets').map(({ key }) => key))).toEqual(
      new Set(found.map(({ campaignId }) => budgetKey(campaignId))),
    );
    // Over the goal a budget is never raised.
    for (const { proposal } of found)
      if (proposal!.over > 0.5) expect(proposal!.options.map(({ kind }) => kind)).toEqual(['lower_bids']);
  });
});

describe('what is done about it', () => {
  test('a raise goes to the marketplace as one line, and back by a revert', async () => {
    const { campaigns } = await budgets();
    const raised = campaigns.find(({ proposal }) => proposal?.options.some(({ kind }) => kind === 'raise'))!;
    const option = raised.proposal!.options.find(({ kind }) => kind === 'raise')!;
    const key = budgetKey(raised.campaignId);
    await accept([key], { [key]: { way: 'raise' } });
    const { lines, sheetId } = await openSheetOf(stack.url);
    expect(lines).toHaveLength(1);
    expect(lines[0]).toMatchObject({
      entity: 'campaign',
      field: 'daily_budget',
      old_value: String(raised.budget),
      new_value: String(option.budget),
    });
    const { jobId } = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, jobId);
    const live = async () =>
      (await structureOf(stack.quayside)).find(
        ({ entity, campaign }) => entity === 'campaign' && campaign === raised.name,
      )!.daily_budget;
    expect(await live()).toBe(option.budget / 1e6);
    // The cooldown holds what comes next.
    const after = (await budgets()).campaigns.find(({ campaignId }) => campaignId === raised.campaignId)!;
    expect(after.isFinding).toBe(false);
    await call('POST', `ledger/${sheetId}/revert`, {});
    const back = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, back.jobId);
    expect(await live()).toBe(raised.budget! / 1e6);
    expect((await sentSheetOf(stack.url, sheetId)).lines[0]).toMatchObject({ state: 'applied' });
  });

  test('lower bids move all of a campaign together; a bid that has a finding of its own gets the lower one', async () => {
    const { campaigns } = await budgets();
    const lowered = campaigns.find(
      ({ isFinding, proposal }) => isFinding && proposal!.chosen.kind === 'lower_bids',
    )!;
    const { findings } = await call<QueueAnswer>('GET', `round/queue?from=${window.from}&to=${window.to}`);
    const own = findings.find(
      ({ queue, campaignId, proposal }) =>
        queue === 'targets' && campaignId === lowered.campaignId && proposal.kind === 'bid',
    );
    const { lines: made } = await accept([budgetKey(lowered.campaignId), ...(own ? [own.key] : [])]);
    const { lines } = await openSheetOf(stack.url);
    expect(made).toBe(lowered.lines);
    const factor = lowered.proposal!.chosen.bids;
    for (const { old_value: from, new_value: to, expression } of lines) {
      const most = Math.round((Number(from) * factor) / 10_000) * 10_000;
      if (own?.proposal.kind === 'bid' && expression === own.target)
        expect(Number(to)).toBe(Math.min(own.proposal.to, most));
      else expect(Number(to)).toBeLessThanOrEqual(Math.max(most, 40_000));
    }
    // Its placements and its own bids are settled by it meanwhile.
    const { covered } = await call<QueueAnswer>('GET', `round/queue?from=${window.from}&to=${window.to}`);
    const others = findings.filter(
      ({ queue, campaignId, key }) =>
        queue === 'targets' && campaignId === lowered.campaignId && key !== own?.key,
    );
    for (const { key } of others) expect(covered[key]).toMatch(/budget of its campaign/);
    // Once they are sent, the days before tell nothing new: what they do has to be seen first.
    const { jobId, sheetId } = await call<{ jobId: string; sheetId: number }>('POST', 'sheet/send', {});
    await waitForJob(stack.url, jobId);
    const after = (await budgets()).campaigns.find(({ campaignId }) => campaignId === lowered.campaignId)!;
    expect(after.proposal!.held).toContain('cooldown');
    expect(after.isFinding).toBe(false);
    await call('POST', `ledger/${sheetId}/revert`, {});
    const back = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, back.jobId);
  });

  test('bad budgets are refused whole: nothing of them is on the sheet', async () => {
    const { campaigns, minimumBudget } = await budgets();
    const [one, other] = campaigns.map(({ campaignId, budget }) => ({ campaignId, budget: budget! + 1e6 }));
    const low = await problemOf(set([one!, { ...other!, budget: minimumBudget - 10_000 }]));
    expect(low).toMatch(/2\.00/);
    expect(await problemOf(set([one!, { ...other!, budget: 0 }]))).toMatch(/2\.00/);
    expect(await problemOf(set([one!, { campaignId: '99999', budget: 5e6 }]))).toMatch(/not there any more/);
    expect(await problemOf(set([{ campaignId: one!.campaignId, budget: one!.budget - 1e6 }]))).toMatch(
      /stand like that already/,
    );
    expect((await openSheetOf(stack.url)).lines).toHaveLength(0);
  });

  test('a file of budgets: what would change, and what is wrong with its rows, before anything stands on the sheet', async () => {
    const { campaigns } = await budgets();
    const [a, b, c] = campaigns;
    const found = await read(
      [
        'campaign;daily_budget',
        `${a!.name};${(a!.budget! / 1e6 + 1.5).toFixed(2).replace('.', ',')}`,
        `${b!.name};0,50`,
        `${c!.name};many`,
        'Nobody’s campaign;9,00',
        `${a!.name};7,00`,
      ].join('\n'),
    );
    expect(found.budgets).toEqual([
      { campaignId: a!.campaignId, name: a!.name, from: a!.budget, budget: a!.budget! + 1_500_000 },
    ]);
    expect(found.problems.map(({ row, column }) => [row, column])).toEqual([
      [3, 'daily_budget'],
      [4, 'daily_budget'],
      [5, 'campaign'],
      [6, 'campaign'],
    ]);
    expect((await openSheetOf(stack.url)).lines).toHaveLength(0);
    const saved = await fetch(`${stack.url}/api/1/spend/budgets/file?from=${window.from}&to=${window.to}`);
    const again = await read(await saved.text());
    expect(again).toEqual({ budgets: [], problems: [] });
    await set([{ campaignId: a!.campaignId, budget: found.budgets[0]!.budget }], 'file');
    expect((await openSheetOf(stack.url)).lines).toHaveLength(1);
    await empty();
  });
});

describe('totals', () => {
  test('a rule is kept, split by it, carried to the marketplace, and the bids keep to it', async () => {
    const rule = {
      ...emptyRule('product', 'TT-LID4'),
      total: micros(30),
      researchShare: 0.5,
      least: micros(3),
    };
    const before = await call<QueueAnswer>('GET', `round/queue?from=${window.from}&to=${window.to}`);
    await call('PUT', 'spend/budgets/rules', rule);
    const answer = await budgets();
    const group = answer.groups.find(({ object }) => object === 'TT-LID4')!;
    expect(group.rule).toEqual(rule);
    const own = answer.campaigns.filter(({ campaignId }) => group.campaignIds.includes(campaignId));
    const { members, rules } = splitGround(group, own, new Map(), answer.minimumBudget, answer.today);
    const { parts } = splitter(members, rules)();
    const total = parts.reduce((sum, { budget }) => sum + budget, 0);
    expect(total).toBeLessThanOrEqual(rule.total);
    const research = parts.filter((_, at) => members[at]!.isResearch);
    expect(research.reduce((sum, { budget }) => sum + budget, 0)).toBeLessThanOrEqual(rule.total / 2 + 1);
    for (const { budget } of parts) expect(budget).toBeGreaterThanOrEqual(micros(3));
    const changed = parts.filter(
      ({ campaignId, budget }) => own.find((row) => row.campaignId === campaignId)!.budget !== budget,
    );
    await set(
      changed.map(({ campaignId, budget }) => ({ campaignId, budget })),
      'split',
    );
    const { jobId } = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, jobId);
    const live = new Map(
      (await structureOf(stack.quayside))
        .filter(({ entity }) => entity === 'campaign')
        .map(({ campaign, daily_budget: budget }) => [campaign, Number(budget)]),
    );
    for (const { campaignId, budget } of parts) {
      const { name } = own.find((row) => row.campaignId === campaignId)!;
      expect(live.get(name)).toBeCloseTo(budget / 1e6, 6);
    }
    // A total of a third of what they spend leaves no room for raises.
    const after = await call<QueueAnswer>('GET', `round/queue?from=${window.from}&to=${window.to}`);
    const raises = ({ findings }: QueueAnswer) =>
      findings.filter(
        ({ queue, sku, proposal }) =>
          queue === 'targets' && sku === 'TT-LID4' && proposal.kind === 'bid' && proposal.to > proposal.from,
      ).length;
    expect(raises(after)).toBeLessThan(raises(before));
    await call('PUT', 'spend/budgets/rules', emptyRule('product', 'TT-LID4'));
    expect((await budgets()).groups.find(({ object }) => object === 'TT-LID4')!.rule).toBeNull();
  });

  test('rules that cannot be are said', async () => {
    const rule = emptyRule('account', '');
    const tries: [object, RegExp][] = [
      [{ ...rule, total: 0 }, /above 0.00/],
      [{ ...rule, least: micros(5), most: micros(3) }, /at most 3.00/],
      [{ ...rule, graceDays: 14 }, /for how many days, and at least how much/],
      [{ ...rule, researchShare: 1.4 }, /researchShare/],
      [{ ...rule, scope: 'product', object: 'nobody' }, /nobody/],
    ];
    for (const [body, said] of tries)
      expect(await problemOf(call('PUT', 'spend/budgets/rules', body))).toMatch(said);
    expect((await budgets()).groups.every((group) => group.rule === null)).toBe(true);
    const { campaignId } = (await budgets()).campaigns[0]!;
    const limit = { campaignId, least: null, most: micros(0.5) };
    expect(await problemOf(call('PUT', 'spend/budgets/limits', limit))).toMatch(/least budget of 2.00/);
    await call('PUT', 'spend/budgets/limits', { ...limit, most: micros(4) });
    expect((await budgets()).limits).toEqual([{ ...limit, most: micros(4) }]);
    await call('PUT', 'spend/budgets/limits', { ...limit, most: null });
  });
});
