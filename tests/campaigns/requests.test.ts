import { afterAll, beforeAll, expect, test } from 'vitest';
import { startStack, type Stack } from '../support/stack.ts';
import { playRequests } from './requests.ts';

let stack: Stack;
beforeAll(async () => {
  stack = await startStack(true);
});
afterAll(() => stack.stop());

test('400 wrong calls: none is our own fault, every refusal is clear, none hangs', async () => {
  const { serverErrors, unclear, hangs } = await playRequests(stack.url, 400, 20261125);
  expect({ serverErrors, unclear, hangs }).toEqual({ serverErrors: [], unclear: [], hangs: [] });
});

test('every answer carries the same headers, whatever it is', async () => {
  const asset = /\/_astro\/[^"']+\.js/.exec(await (await fetch(`${stack.url}/1/round`)).text())![0];
  for (const path of [
    '/1/round',
    '/api/1/season',
    '/api/nothing',
    '/nothing',
    '/mowing.svg',
    asset,
    '/%ff',
    '/9/round',
  ]) {
    const { headers, status } = await fetch(`${stack.url}${path}`);
    expect([path, status]).toEqual([path, expect.toSatisfy((code: number) => code < 500)]);
    expect([path, headers.get('x-content-type-options')]).toEqual([path, 'nosniff']);
    expect([path, headers.get('referrer-policy')]).toEqual([path, 'no-referrer']);
    expect([path, headers.get('content-security-policy')]).toEqual([
      path,
      expect.stringContaining("default-src 'none'"),
    ]);
  }
  expect((await fetch(`${stack.url}${asset}`)).headers.get('cache-control')).toContain('immutable');
});

test('addresses that cannot be read, methods that nothing takes, and calls from elsewhere are told', async () => {
  const code = async (path: string, init: RequestInit = {}) => {
    const answer = await fetch(`${stack.url}${path}`, init);
    return [answer.status, ((await answer.json()) as { code: string }).code];
  };
  expect(await code('/api/1/%ff')).toEqual([400, 'bad_address']);
  expect(await code('/api/1/nothing')).toEqual([404, 'not_found']);
  expect(await code('/api/77/season')).toEqual([404, 'not_found']);
  expect(await code('/api/1/season', { method: 'PATCH' })).toEqual([405, 'method_not_allowed']);
  expect(await code('/api/1/season', { method: 'DELETE' })).toEqual([405, 'method_not_allowed']);
  expect(await code('/mowing.svg', { headers: { 'sec-fetch-site': 'cross-site' } })).toEqual([
    403,
    'refused',
  ]);
});
