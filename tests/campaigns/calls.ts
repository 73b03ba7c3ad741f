import type { JobAnswer } from '../../src/answers/account.ts';
import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';

export interface Answer {
  status: number;
  body: Record<string, unknown> & { code?: string; detail?: string };
}

/** A call whose refusals are answers too. */
export async function ask(
  url: string,
  method: 'GET' | 'POST',
  path: string,
  body?: object,
  key: string = randomUUID(),
): Promise<Answer> {
  const answer = await fetch(`${url}${path}`, {
    method,
    headers: { 'content-type': 'application/json', 'idempotency-key': key },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    signal: AbortSignal.timeout(60_000),
  });
  return { status: answer.status, body: (await answer.json()) as Answer['body'] };
}

/** Waits until a job has ended, however; null when it has not within a minute. */
export async function endOf(url: string, account: number, jobId: string): Promise<JobAnswer | null> {
  const until = performance.now() + 60_000;
  while (performance.now() < until) {
    const { body } = await ask(url, 'GET', `/api/${account}/jobs/${jobId}`);
    const job = body as unknown as JobAnswer;
    if (['done', 'failed', 'cancelled'].includes(job.state)) return job;
    await sleep(30);
  }
  return null;
}

interface Findings {
  window: { from: string; to: string };
  findings: { key: string; proposal: { kind: string } }[];
}

/** The window that is usual, and keys of findings that propose something. */
export async function proposals(
  url: string,
): Promise<{ window: { from: string; to: string }; keys: string[] }> {
  const { body } = await ask(url, 'GET', '/api/1/round');
  const { window, findings } = body as unknown as Findings;
  const wanted = ['bid', 'negative', 'harvest'];
  return {
    window,
    keys: findings.filter(({ proposal }) => wanted.includes(proposal.kind)).map(({ key }) => key),
  };
}
