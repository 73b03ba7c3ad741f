import { parse } from 'csv-parse/sync';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { reportText, startStack, type Stack } from '../support/stack.ts';
import { sentSheetOf } from '../support/sheets.ts';

/** Harvesting through lanes, measured where it counts: in the marketplace's own reports. */

let stack: Stack;
beforeAll(async () => {
  stack = await startStack(true);
});
afterAll(() => stack.stop());

type Row = Record<string, string>;
const report = async (kind: string, from: string, to: string): Promise<Row[]> =>
  parse(await reportText(stack.quayside, kind, from, to), { columns: true, bom: true }) as Row[];
const api = <T>(method: string, path: string, body?: object) => callApi<T>(stack.url, method, path, body);
const day = (from: string, days: number) =>
  new Date(Date.parse(`${from}T00:00:00Z`) + days * 864e5).toISOString().slice(0, 10);

const performs = ({ match_type, target_kind }: Row) => match_type === 'exact' || target_kind === 'item';
const ordersOf = (rows: Row[]) => rows.reduce((sum, { orders }) => sum + Number(orders), 0);
const shareOf = (rows: Row[]) => ordersOf(rows.filter(performs)) / ordersOf(rows);

interface Harvested {
  key: string;
  subject: string;
  adGroupId: string;
  proposal: { kind: string; adGroupId: string; expression: string; isolateIn: string[] };
}

test('21 days after harvesting, performance has more of the orders, and each term is served by one campaign', async () => {
  const round = await api<{
    today: string;
    window: { from: string; to: string };
    findings: Harvested[];
    adGroups: Record<string, { name: string; campaign: string; sku: string | null }>;
  }>('GET', '/api/1/round');
  const harvests = round.findings.filter(({ proposal }) => proposal.kind === 'harvest');
  expect(harvests.length).toBeGreaterThan(30);
  const before = shareOf(await report('targets-daily', day(round.today, -21), day(round.today, -1)));

  const keys = harvests.map(({ key }) => key);
  await api('POST', '/api/1/round/accept', { ...round.window, keys });
  const { jobId, sheetId } = await api<{ jobId: string; sheetId: number }>('POST', '/api/1/sheet/send', {});
  await waitForJob(stack.url, jobId);
  const sent = await sentSheetOf<{ lines: { state: string; message: string | null }[] }>(stack.url, sheetId);
  expect(sent.lines.filter(({ state }) => state !== 'applied')).toEqual([]);

  const advance = await api<{ jobId: string }>('POST', '/api/1/advance', { days: 21 });
  await waitForJob(stack.url, advance.jobId);
  const from = day(round.today, 1);
  const to = day(round.today, 20);
  const after = shareOf(await report('targets-daily', from, to));
  expect(after).toBeGreaterThan(before + 0.02);

  const skuOf = new Map(Object.values(round.adGroups).map(({ campaign, sku }) => [campaign, sku]));
  const served = new Map<string, Set<string>>();
  for (const { term, campaign, impressions } of await report('terms-daily', from, to)) {
    if (Number(impressions) === 0) continue;
    const key = `${skuOf.get(campaign!)}\t${term!.toLowerCase()}`;
    served.set(key, (served.get(key) ?? new Set()).add(campaign!));
  }
  let seen = 0;
  for (const { proposal } of harvests) {
    const { sku, campaign } = round.adGroups[proposal.adGroupId]!;
    const campaigns = [...(served.get(`${sku}\t${proposal.expression.toLowerCase()}`) ?? [])];
    if (campaigns.length > 0) seen++;
    expect([campaign, ...campaigns.filter((one) => one !== campaign)], proposal.expression).toEqual([
      campaign,
    ]);
  }
  // Most of them were searched for again, so that this says something.
  expect(seen).toBeGreaterThan(harvests.length / 2);

  // None of it is a conflict any more, and the map shows what went down.
  const map = await api<{ lanes: { flow: { orders: number } }[] }>('GET', '/api/1/lanes');
  expect(map.lanes.reduce((sum, { flow }) => sum + flow.orders, 0)).toBeGreaterThan(0);
  const revert = await api<{ lines: number }>('POST', `/api/1/ledger/${sheetId}/revert`, { lineIds: null });
  expect(revert.lines).toBe(sent.lines.length);
});

test('a lane over fewer days reads its counts from exactly these days', async () => {
  const { lanes } = await api<{ lanes: (Record<string, unknown> & { source: string; kind: string })[] }>(
    'GET',
    '/api/1/lanes',
  );
  const plain = lanes.map(({ problem: _, flow: __, ...lane }) => lane);
  const harvested = async () => {
    const { findings } = await api<{ findings: Harvested[] }>('GET', '/api/1/round');
    return new Set(
      findings.filter(({ proposal }) => proposal.kind === 'harvest').map(({ subject }) => subject),
    );
  };
  const save = (days: number, leastOrders: number) =>
    api('PUT', '/api/1/lanes', { lanes: plain.map((lane) => ({ ...lane, days, leastOrders })) });
  await save(90, 2);
  const season = await harvested();
  await save(14, 2);
  const fortnight = await harvested();
  expect(fortnight.size).toBeLessThan(season.size);
  for (const term of fortnight) expect(season.has(term), term).toBe(true);
  await api('PUT', '/api/1/lanes', { lanes: null });
});
