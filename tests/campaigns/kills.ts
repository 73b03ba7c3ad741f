import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import { isDeepStrictEqual } from 'node:util';
import postgres from 'postgres';
import { filesAccount } from '../../scripts/lib/processes.ts';
import type { Stack } from '../support/stack.ts';
import { compareBooks, type BooksReport } from './books.ts';
import { ask, endOf, proposals, type Answer } from './calls.ts';
import { Chance } from './chance.ts';

/**
 * Kills, as a campaign: the server falls at a moment of chance while it does one of its works, and is started again.
 * What was told is there, what was not told is there whole or not at all, jobs come to their end, and the marketplace
 * gets every line once.
 */

export interface KillsReport extends BooksReport {
  kills: number;
  /** Kills by what was going on, and how many of them fell before the call was answered. */
  works: Record<string, { kills: number; unanswered: number }>;
  /** Works of which a part stands. */
  halfApplied: string[];
  /** Jobs that came to no end, and starts that took too long. */
  hangs: string[];
  /** Answers of 5xx after the start. */
  serverErrors: string[];
  /** Milliseconds from the kill until the server answered again. */
  slowestStart: number;
}

const works = ['accept', 'send', 'load', 'edit', 'fetch', 'undo'] as const;
type Work = (typeof works)[number];

/** Jobs go on after their call is answered: their kills fall within a longer time. */
const within: Record<Work, number> = { accept: 70, edit: 400, undo: 25, send: 900, load: 1200, fetch: 2500 };
const startsWithin = 15_000;

class Campaign {
  readonly report: KillsReport;
  private readonly chance: Chance;
  private readonly ours: postgres.Sql;
  private readonly theirs: postgres.Sql;
  private files = 0;
  private factsOfShop = '';

  constructor(
    private readonly stack: Stack,
    readonly kills: number,
    seed: number,
  ) {
    this.chance = new Chance(seed);
    this.ours = postgres(stack.databaseUrl, { max: 1, onnotice: () => undefined });
    this.theirs = postgres(stack.quaysideBooks, { max: 1, onnotice: () => undefined });
    this.report = {
      kills,
      works: Object.fromEntries(works.map((work) => [work, { kills: 0, unanswered: 0 }])),
      lost: [],
      doubled: [],
      halfApplied: [],
      hangs: [],
      serverErrors: [],
      slowestStart: 0,
    };
  }

  async play(): Promise<KillsReport> {
    this.files = await filesAccount(this.stack.url, 'Killed');
    this.factsOfShop = await this.facts(1);
    for (let i = 0; i < this.kills; i++) {
      const work = i < works.length ? works[i]! : this.chance.of(works);
      await this[work](`kill ${i} (${work})`);
      const { lost, doubled } = await compareBooks(this.ours, this.theirs);
      this.report.lost.push(...lost.map((one) => `kill ${i}: ${one}`));
      this.report.doubled.push(...doubled.map((one) => `kill ${i}: ${one}`));
    }
    return this.report;
  }

  async end(): Promise<void> {
    await Promise.all([this.ours.end(), this.theirs.end()]);
  }

  /** Begins a call, lets the server fall, starts it, and makes the same call again under the same key. */
  private async fall(work: Work, label: string, path: string, body: object): Promise<Answer> {
    const { stack, report } = this;
    const key = randomUUID();
    const first = ask(stack.url, 'POST', path, body, key).catch(() => null);
    await sleep(this.chance.next() * within[work]);
    await stack.kill();
    const counts = report.works[work]!;
    counts.kills++;
    const told = await first;
    if (told === null) counts.unanswered++;
    await this.factsStand(label);
    const began = performance.now();
    await stack.restart();
    const took = performance.now() - began;
    report.slowestStart = Math.max(report.slowestStart, took);
    if (took > startsWithin) report.hangs.push(`${label}: the start took ${Math.round(took)} ms`);
    const again = await ask(stack.url, 'POST', path, body, key);
    const said = (answer: Answer) => `${answer.status} ${JSON.stringify(answer.body)}`;
    if (again.status >= 500) report.serverErrors.push(`${label}: ${said(again)}`);
    if (told !== null && !isDeepStrictEqual(told, again))
      report.lost.push(`${label}: it was told ${said(told)}, and again under its key ${said(again)}`);
    return again;
  }

  /** A fetch of the same day changes nothing: the figures of the shop are the same at every moment. */
  private async factsStand(label: string): Promise<void> {
    const facts = await this.facts(1);
    if (facts !== this.factsOfShop)
      this.report.halfApplied.push(`${label}: figures were ${this.factsOfShop}, are ${facts}`);
  }

  private async facts(account: number): Promise<string> {
    const [row] = await this.ours<{ sums: string }[]>`
      select concat_ws(' ', (select count(*) || ':' || coalesce(sum(spend), 0) from target_day where account_id = ${account}),
        (select count(*) || ':' || coalesce(sum(spend), 0) from term_day where account_id = ${account}),
        (select count(*) || ':' || coalesce(sum(spend), 0) from placement_day where account_id = ${account})) as sums`;
    return row!.sums;
  }

  /** Lines told by an answer stand in its groups: all of them, once. */
  private async linesStand(label: string, { status, body }: Answer): Promise<string[]> {
    const { groups = [], lines } = body as { groups?: string[]; lines?: number };
    if (status !== 200) return [];
    const [row] = await this.ours<{ lines: number }[]>`
      select count(*)::int as lines from line where group_key = any(${groups}::text[])`;
    const label2 = `${label}: told ${lines} lines, ${row!.lines} stand`;
    if (row!.lines < lines!) this.report.lost.push(label2);
    if (row!.lines > lines!) this.report.doubled.push(label2);
    return groups;
  }

  private async someKeys(most: number): Promise<{ window: object; keys: string[] }> {
    const { window, keys } = await proposals(this.stack.url);
    const from = this.chance.below(Math.max(1, keys.length - most));
    return { window, keys: keys.slice(from, from + most) };
  }

  private async accept(label: string): Promise<void> {
    const { window, keys } = await this.someKeys(30);
    const answer = await this.fall('accept', label, '/api/1/round/accept', { ...window, keys });
    await this.linesStand(label, answer);
  }

  private editOf(value: number, clicks: number): object {
    return {
      window: { from: '2026-10-18', to: '2026-11-16' },
      level: 'targets',
      columns: [],
      where: { all: [{ column: 'clicks', is: 'at_least', value: clicks }] },
      edit: { field: 'bid', how: 'percent', value },
    };
  }

  private async edit(label: string): Promise<void> {
    const body = this.editOf(-0.2 + this.chance.below(15) / 100, this.chance.below(30));
    await this.linesStand(label, await this.fall('edit', label, '/api/1/explore/edit', body));
    // Two edits of one bid conflict and would keep the sheet from leaving.
    await this.clear();
  }

  private async undo(label: string): Promise<void> {
    const { window, keys } = await this.someKeys(20);
    const { url } = this.stack;
    const made = await ask(url, 'POST', '/api/1/round/accept', { ...window, keys });
    const groups = await this.linesStand(label, made);
    if (groups.length === 0) return;
    const answer = await this.fall('undo', label, '/api/1/sheet/undo', { groups });
    const states = await this.ours<{ state: string }[]>`
      select distinct state from line where group_key = any(${groups}::text[])`;
    const wanted = answer.status === 200 ? ['removed'] : ['open'];
    const found = states.map(({ state }) => state);
    if (found.join() !== wanted.join())
      this.report.halfApplied.push(`${label}: ${answer.status}, lines are ${found.join(' and ')}`);
  }

  private async clear(): Promise<void> {
    const ids = await this.ours<{ line_id: number }[]>`
      select line_id::int from line l join sheet s using (account_id, sheet_id)
      where s.state = 'open' and l.state = 'open'`;
    const lineIds = ids.map(({ line_id }) => line_id);
    if (lineIds.length > 0) await ask(this.stack.url, 'POST', '/api/1/sheet/lines', { lineIds });
  }

  private async send(label: string): Promise<void> {
    const { url } = this.stack;
    const { window, keys } = await this.someKeys(40);
    await this.linesStand(label, await ask(url, 'POST', '/api/1/round/accept', { ...window, keys }));
    const answer = await this.fall('send', label, '/api/1/sheet/send', { clicksMeant: true });
    if (answer.status !== 200) {
      // What stands in its way is cleared, so that the next can leave.
      await this.clear();
      return;
    }
    await this.ended(label, 1, answer);
    const { sheetId } = answer.body as { sheetId: number };
    const [sheet] = await this.ours<{ state: string }[]>`
      select state from sheet where account_id = 1 and sheet_id = ${sheetId}`;
    if (sheet?.state !== 'sent')
      this.report.halfApplied.push(`${label}: sheet ${sheetId} is ${sheet?.state}`);
  }

  private async ended(label: string, account: number, answer: Answer): Promise<void> {
    const { jobId } = answer.body as { jobId: string };
    const job = await endOf(this.stack.url, account, jobId);
    if (job === null) this.report.hangs.push(`${label}: its job came to no end within a minute`);
    else if (job.state !== 'done') this.report.lost.push(`${label}: its job ${job.state}: ${job.message}`);
  }

  private async load(label: string): Promise<void> {
    const { stack, files, chance } = this;
    const rows = 2000 + chance.below(30_000);
    const spend = 1 + chance.below(90);
    const lines = Array.from(
      { length: rows },
      (_, i) =>
        `2026-11-${String(1 + (i % 9)).padStart(2, '0')},Campaign,Group,target ${i % 90},broad,term ${i},50,2,0.${String(spend).padStart(2, '0')},1,18.90`,
    );
    const body = [
      'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales',
      ...lines,
    ];
    const sent = await fetch(`${stack.url}/api/${files}/files?name=terms.csv`, {
      method: 'POST',
      body: body.join('\n'),
    });
    const { uploadId, kind } = (await sent.json()) as { uploadId: string; kind: string };
    const termDays = async () => {
      const [row] = await this.ours<{ sums: string }[]>`
        select count(*) || ':' || coalesce(sum(spend), 0) as sums from term_day where account_id = ${files}`;
      return row!.sums;
    };
    const [before, after] = [await termDays(), `${rows}:${rows * spend * 10_000}`];
    const whole = async () => {
      const now = await termDays();
      if (now !== before && now !== after)
        this.report.halfApplied.push(`${label}: ${now} stands, neither ${before} nor ${after}`);
    };
    const falling = this.fall('load', label, `/api/${files}/imports`, { uploadId, kind });
    for (let looks = 0; looks < 5; looks++) {
      await whole();
      await sleep(chance.below(200));
    }
    await this.ended(label, files, await falling);
    if ((await termDays()) !== after)
      this.report.lost.push(`${label}: ${await termDays()} stands, ${after} was loaded`);
  }

  private async fetch(label: string): Promise<void> {
    const answer = await this.fall('fetch', label, '/api/1/fetch', {});
    await this.factsStand(label);
    await this.ended(label, 1, answer);
    await this.factsStand(label);
  }
}

/** Lets the application of `stack` fall so many times; its account 1 has its reports loaded. */
export async function playKills(stack: Stack, kills: number, seed: number): Promise<KillsReport> {
  const campaign = new Campaign(stack, kills, seed);
  try {
    return await campaign.play();
  } finally {
    await campaign.end();
  }
}
