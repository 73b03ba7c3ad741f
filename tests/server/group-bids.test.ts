import { afterAll, beforeAll, expect, test } from 'vitest';
import { callApi, filesAccount, waitForJob } from '../../scripts/lib/processes.ts';
import type { QueueAnswer, WhyAnswer } from '../../src/answers/round.ts';
import { addDays } from '../../src/core/metrics/days.ts';
import { openSheetOf } from '../support/sheets.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** An account of files whose marketplace bids by ad group: targets without a bid of their own. */

let stack: Stack;
let account: number;
beforeAll(async () => {
  stack = await startStack(false);
  account = await filesAccount(stack.url, 'By ad group');
});
afterAll(() => stack.stop());

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/${account}/${path}`, body);
async function load(name: string, text: string, kind: string): Promise<void> {
  const sent = await fetch(`${stack.url}/api/${account}/files?name=${name}`, { method: 'POST', body: text });
  const { uploadId } = (await sent.json()) as { uploadId: string };
  const { jobId } = await call<{ jobId: string }>('POST', 'imports', { uploadId, kind });
  await waitForJob(stack.url, jobId, undefined, account);
}

test('a finding for the ad group’s bid: shown with its season, accepted as a line of the ad group', async () => {
  const head =
    'entity,campaign,campaign_id,ad_group,ad_group_id,status,default_bid,target_kind,match_type,expression,bid,sku';
  const targets = ['wide lids', 'airlock lids', 'jar lids'];
  const place = 'Lids broad,c1,Lids broad,g1,enabled';
  await load(
    'structure.csv',
    [
      head,
      'campaign,Lids broad,c1,,,enabled,,,,,,',
      `ad_group,${place},0.60,,,,,`,
      `product_ad,${place},,,,,,LID`,
      ...targets.map((text) => `target,${place},,keyword,broad,${text},,`),
    ].join('\n'),
    'structure',
  );
  const first = '2026-09-01';
  const rows = Array.from({ length: 60 }, (_, day) =>
    targets.map(
      (text, at) =>
        `${addDays(first, day)},Lids broad,c1,Lids broad,g1,${text},broad,200,4,2.00,${day % 20 === at ? 1 : 0},${day % 20 === at ? '12.00' : '0.00'}`,
    ),
  ).flat();
  await load(
    'targets.csv',
    `date,campaign,campaign_id,ad_group,ad_group_id,target,match_type,impressions,clicks,spend,orders,sales\n${rows.join('\n')}`,
    'targets-daily',
  );
  const round = await call<QueueAnswer>('GET', 'round/queue');
  const bids = round.findings.filter(({ queue }) => queue === 'targets');
  expect(bids).toHaveLength(1);
  const [found] = bids as [(typeof bids)[number]];
  expect(found).toMatchObject({ subject: 'Lids broad', targetKind: 'ad_group', members: 3, verdict: 'over' });
  expect(found.key).toMatch(/^ad_group:\d+:bid$/);
  const { from, to } = round.window!;
  const why = await call<WhyAnswer>(
    'GET',
    `round/why?key=${encodeURIComponent(found.key)}&from=${from}&to=${to}`,
  );
  expect(why.sentence).toContain('Cut the bid from 0.60');
  expect(why.season.at(-1)).toMatchObject({ clicks: 12, spend: 6_000_000 });
  await call('POST', 'round/accept', { from, to, keys: [found.key] });
  const { lines } = await openSheetOf(stack.url, account);
  expect(lines).toHaveLength(1);
  expect(lines[0]).toMatchObject({ entity: 'ad_group', field: 'default_bid', old_value: '600000' });
});
