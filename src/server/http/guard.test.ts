import { expect, test } from 'vitest';
import { contentPolicy, refuseCall } from './guard.ts';

const call = (method: string, headers: Record<string, string>) => refuseCall(method, new Headers(headers));

test('own pages and scripts on this machine pass', () => {
  expect(call('GET', { host: '127.0.0.1:4321' })).toBeNull();
  expect(
    call('POST', {
      host: 'localhost:4321',
      origin: 'http://localhost:4321',
      'sec-fetch-site': 'same-origin',
    }),
  ).toBeNull();
  expect(
    call('GET', { host: '[::1]:4321', 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate' }),
  ).toBeNull();
});

test('a rebound name and calls from other sites are refused', () => {
  expect(call('GET', { host: 'evil.example:4321' })).toContain('evil.example');
  expect(call('GET', {})).not.toBeNull();
  expect(call('POST', { host: '127.0.0.1:4321', origin: 'http://127.0.0.1:9999' })).not.toBeNull();
  expect(call('POST', { host: '127.0.0.1:4321', origin: 'null' })).not.toBeNull();
  expect(
    call('GET', { host: '127.0.0.1:4321', 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors' }),
  ).not.toBeNull();
});

test('the policy allows nothing inline without the nonce', () => {
  expect(contentPolicy('abc')).toContain("script-src 'self' 'nonce-abc'");
  expect(contentPolicy('abc')).not.toContain('unsafe');
});
