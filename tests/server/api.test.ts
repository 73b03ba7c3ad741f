import { significant } from '../../src/core/metrics/format.ts';
import { request } from 'node:http';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { startStack, type Stack } from '../support/stack.ts';
import { openSheetOf } from '../support/sheets.ts';

let stack: Stack;
beforeAll(async () => {
  stack = await startStack(true);
});
afterAll(() => stack.stop());

const status = (path: string, headers: Record<string, string>, method = 'GET') =>
  new Promise<{ status: number; type: string }>((resolve, reject) => {
    const call = request(`${stack.url}${path}`, { method, headers }, (answer) => {
      answer.resume();
      resolve({ status: answer.statusCode ?? 0, type: String(answer.headers['content-type']) });
    });
    call.on('error', reject);
    call.end();
  });

const put = (body: unknown) =>
  fetch(`${stack.url}/api/1/goals`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });

interface Round {
  window: { from: string; to: string };
  findings: {
    key: string;
    queue: string;
    sku: string | null;
    working: { targetAcos: number };
    proposal: { kind: string };
  }[];
}

describe('who may call', () => {
  test('a rebound host name and another origin are refused, this machine is not', async () => {
    expect((await status('/api/1/season', { host: 'rebound.example' })).status).toBe(403);
    expect((await status('/api/1/fetch', { origin: 'http://elsewhere.example' }, 'POST')).status).toBe(403);
    expect((await status('/api/1/season', { 'sec-fetch-site': 'cross-site' })).status).toBe(403);
    expect((await status('/api/1/season', {})).status).toBe(200);
  });

  test('every page carries a policy without inline scripts or styles', async () => {
    const answer = await fetch(`${stack.url}/round`);
    const policy = answer.headers.get('content-security-policy')!;
    expect(policy).toContain("default-src 'none'");
    expect(policy).not.toContain('unsafe-inline');
    const nonce = /'nonce-([^']+)'/.exec(policy)![1]!;
    const scripts = (await answer.text()).match(/<script[^>]*>/g)!;
    expect(scripts.every((script) => script.includes(`nonce="${nonce}"`))).toBe(true);
  });
});

describe('errors', () => {
  test('are problem details that say the field', async () => {
    const answer = await put({ scope: 'account', targetAcos: 'much' });
    expect(answer.status).toBe(422);
    expect(answer.headers.get('content-type')).toContain('application/problem+json');
    expect(await answer.json()).toMatchObject({ status: 422, code: 'bad_request', field: 'targetAcos' });
  });

  test.each([
    ['GET', '/api/1/jobs/none', 404],
    ['GET', '/api/1/files/..%2f..%2fetc%2fpasswd', 404],
    ['GET', '/api/1/ledger/999', 404],
    ['GET', '/api/1/round?from=2026-11-10&to=2026-11-01', 422],
    ['GET', '/api/1/round?from=2026-11-20&to=2026-11-21', 409],
    ['GET', '/api/1/round/why?key=none', 404],
  ])('%s %s: %i', async (method, path, expected) => {
    const answer = await status(path, {}, method);
    expect(answer).toMatchObject({
      status: expected,
      type: expect.stringContaining('problem+json') as string,
    });
  });

  test('accepting all or none: one key that is gone leaves the sheet as it was', async () => {
    const round = await callApi<Round>(stack.url, 'GET', '/api/1/round');
    const open = round.findings.find(({ proposal }) => proposal.kind !== 'wait')!;
    const keys = [open.key, 'term:0:gone'];
    await expect(
      callApi(stack.url, 'POST', '/api/1/round/accept', { ...round.window, keys }),
    ).rejects.toThrow('not there any more');
    const sheet = await openSheetOf<{ lines: unknown[] }>(stack.url);
    expect(sheet.lines).toEqual([]);
  });
});

describe('goals', () => {
  test('an override rules its product at once, and no other', async () => {
    await put({ scope: 'product', key: 'TT-TMP1', targetAcos: 0.11 });
    const { findings } = await callApi<Round>(stack.url, 'GET', '/api/1/round');
    const targets = (sku: string) =>
      new Set(findings.filter((finding) => finding.sku === sku).map(({ working }) => working.targetAcos));
    expect(targets('TT-TMP1')).toEqual(new Set([0.11]));
    expect(targets('TT-WGT6')).toEqual(new Set([0.26]));
  });

  test('a floor above the ceiling, an unknown product, the account’s own goal', async () => {
    expect((await put({ scope: 'account', targetAcos: 0.2, bidFloor: 2e6, bidCeiling: 1e6 })).status).toBe(
      422,
    );
    expect((await put({ scope: 'product', key: 'none', targetAcos: 0.2 })).status).toBe(404);
    await expect(callApi(stack.url, 'DELETE', '/api/1/goals?scope=account&key=x', {})).rejects.toThrow(
      'needs a goal',
    );
  });
});

describe('what comes in', () => {
  test.each(['2026-02-31', '2026-13-01', '0000-01-01', '12026-01-01', 'yesterday', '2026-1-1'])(
    'a day that is none is told, wherever it stands: %s',
    async (bad) => {
      for (const path of ['round', 'terms/negatives', 'lanes']) {
        const answer = await fetch(`${stack.url}/api/1/${path}?from=${bad}&to=2026-11-16`);
        expect([path, answer.status]).toEqual([path, 422]);
        expect(((await answer.json()) as { detail: string }).detail).toContain('is no day');
      }
      const table = await fetch(`${stack.url}/api/1/explore/table`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ level: 'targets', columns: [], window: { from: bad, to: '2026-11-16' } }),
      });
      expect(table.status).toBe(422);
    },
  );

  test('a window of centuries, or one that ends before it begins', async () => {
    for (const [from, to] of [
      ['2000-01-01', '2099-01-01'],
      ['2026-11-16', '2026-10-01'],
    ]) {
      const answer = await fetch(`${stack.url}/api/1/round?from=${from}&to=${to}`);
      expect(answer.status).toBe(422);
    }
  });

  test('a body larger than any honest one is refused before it is read', async () => {
    const body = JSON.stringify({ groups: ['x'.repeat(9 * 1024 * 1024)] });
    for (const path of ['sheet/undo', 'lanes/file', 'terms/lists/read', 'explore/table']) {
      const answer = await fetch(`${stack.url}/api/1/${path}`, {
        method: 'POST',
        headers: { 'content-type': path.includes('file') ? 'text/csv' : 'application/json' },
        body,
      });
      expect([path, answer.status]).toEqual([path, 413]);
      expect(answer.headers.get('content-type')).toContain('problem+json');
    }
  });
});

test('a week later theta is steered once, with its reason; fetching again steers nothing', async () => {
  interface Goals {
    goals: { scope: string; theta: { value: number; day: string; reason: string } | null }[];
  }
  const account = async () =>
    (await callApi<Goals>(stack.url, 'GET', '/api/1/goals')).goals.find((goal) => goal.scope === 'account')!
      .theta!;
  await callApi(stack.url, 'GET', '/api/1/round');
  const before = await account();
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/advance', { days: 7 });
  await waitForJob(stack.url, jobId);
  const steered = await account();
  expect(steered.day).toBe('2026-11-28');
  // Which way depends on what rivals did that week; that the reason says what was done does not.
  const { runs, then } = /^It runs at (?<runs>\d+) % against 26 %(?<then>.+)$/.exec(steered.reason)!.groups!;
  const moved = /^: a bid may now be (\S+) of its revenue per click instead of (\S+)\.$/.exec(then!);
  if (moved) {
    expect(moved.slice(1)).toEqual([significant(steered.value), significant(before.value)]);
    if (Number(runs) !== 26) expect(steered.value < before.value).toBe(Number(runs) > 26);
  } else {
    expect(steered.value).toBe(before.value);
    expect(then).toMatch(Number(runs) > 26 ? /^ by bids that stand far above/ : /^, and bids stand at/);
  }
  const again = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
  await waitForJob(stack.url, again.jobId);
  expect(await account()).toEqual(steered);
});

describe('answers that many ask for', () => {
  const queue = (headers: Record<string, string> = {}) =>
    fetch(`${stack.url}/api/1/round/queue?from=2026-10-18&to=2026-11-16`, { headers });
  const tagOf = async () => {
    const answer = await queue();
    await answer.text();
    return answer.headers.get('etag')!;
  };

  test('the queue is the round without its workings; a part of the round is that part', async () => {
    const round = await callApi<Round>(stack.url, 'GET', '/api/1/round?from=2026-10-18&to=2026-11-16');
    const { findings: rows } = (await (await queue()).json()) as {
      findings: { key: string; targetAcos: number }[];
    };
    expect(rows.map(({ key }) => key)).toEqual(round.findings.map(({ key }) => key));
    expect(rows.map(({ targetAcos }) => targetAcos)).toEqual(
      round.findings.map(({ working }) => working.targetAcos),
    );
    expect(rows[0]).not.toHaveProperty('working');
    const part = await callApi<Round>(
      stack.url,
      'GET',
      '/api/1/round?from=2026-10-18&to=2026-11-16&offset=7&limit=5',
    );
    expect(part.findings).toEqual(round.findings.slice(7, 12));
  });

  test('packed for who takes that, and not sent again to who has it', async () => {
    const first = await queue({ 'accept-encoding': 'gzip' });
    expect(first.headers.get('content-encoding')).toBe('gzip');
    expect(first.headers.get('vary')).toBe('accept-encoding');
    const etag = first.headers.get('etag')!;
    const plain = await queue({ 'accept-encoding': 'identity' });
    expect(plain.headers.get('content-encoding')).toBeNull();
    expect(await plain.text()).toBe(await first.text());
    const again = await queue({ 'if-none-match': etag });
    expect([again.status, await again.text()]).toEqual([304, '']);
  });

  test('told anew after each thing that changes it: a decision, the sheet, a goal; and the old again once it is undone', async () => {
    const begun = await tagOf();
    const { findings, window } = await callApi<Round>(stack.url, 'GET', '/api/1/round');
    const keys = findings
      .filter(({ proposal }) => proposal.kind === 'bid')
      .slice(0, 2)
      .map(({ key }) => key);
    const seen = new Set([begun]);
    const changed = async () => {
      const tag = await tagOf();
      expect(seen.has(tag)).toBe(false);
      seen.add(tag);
    };
    await callApi(stack.url, 'POST', '/api/1/round/decide', { keys, decision: 'later', days: 7 });
    await changed();
    await callApi(stack.url, 'POST', '/api/1/round/decide', { keys, decision: null });
    expect(await tagOf()).toBe(begun);
    const accepted = await callApi<{ groups: string[] }>(stack.url, 'POST', '/api/1/round/accept', {
      ...window,
      keys,
    });
    await changed();
    await callApi(stack.url, 'POST', '/api/1/sheet/undo', { groups: accepted.groups });
    expect(await tagOf()).toBe(begun);
    expect((await put({ scope: 'account', key: '', targetAcos: 0.31 })).status).toBe(200);
    await changed();
  });
});
