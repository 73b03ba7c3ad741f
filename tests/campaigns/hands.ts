import postgres from 'postgres';
import type { LinePage, SheetLine } from '../../src/answers/changes.ts';
import type { Stack } from '../support/stack.ts';
import { compareBooks, type BooksReport } from './books.ts';
import { ask, endOf, proposals, type Answer } from './calls.ts';
import { Chance } from './chance.ts';

/**
 * Two hands, as a campaign: several people change one sheet at once, and one of them sends it now and then. What each
 * was told stands, unless somebody else was told to have changed it later.
 */

export interface HandsReport extends BooksReport {
  acts: number;
  /** Acts by their kind: those that were done, and those that were refused. */
  done: Record<string, number>;
  refused: Record<string, number>;
  /** Lines that are open on a sheet that left, out of everybody's reach. */
  stranded: string[];
  serverErrors: string[];
  hangs: string[];
  sheetsSent: number;
}

const acts = [
  'accept',
  'accept',
  'edit',
  'edit',
  'edit',
  'remove',
  'back',
  'undo',
  'change',
  'send',
] as const;
/** What somebody was told of a line. */
interface Told {
  version: number;
  value: string;
}

class Campaign {
  readonly report: HandsReport;
  private readonly edits = new Map<number, Told>();
  private readonly groups = new Map<string, number>();
  private readonly undone: string[] = [];
  private readonly removed: number[] = [];

  constructor(
    private readonly url: string,
    private readonly ours: postgres.Sql,
    private readonly window: { from: string; to: string },
    private readonly keys: readonly string[],
    acts: number,
  ) {
    this.report = {
      acts,
      done: {},
      refused: {},
      lost: [],
      doubled: [],
      stranded: [],
      serverErrors: [],
      hangs: [],
      sheetsSent: 0,
    };
  }

  /** One pair of hands. */
  async hand(count: number, chance: Chance): Promise<void> {
    for (let i = 0; i < count; i++) {
      const act = chance.of(acts);
      const began = performance.now();
      const answer = await this[act](chance);
      const took = performance.now() - began;
      if (answer === null) continue;
      const list = answer.status === 200 ? this.report.done : this.report.refused;
      list[act] = (list[act] ?? 0) + 1;
      const label = `${act}: ${answer.status} ${JSON.stringify(answer.body).slice(0, 300)}`;
      if (answer.status >= 500) this.report.serverErrors.push(label);
      // Sending waits for its job, and so may whoever acts meanwhile.
      if (took > 60_000) this.report.hangs.push(`${Math.round(took)} ms ${label}`);
    }
  }

  private async openLines(show: 'all' | 'conflicts'): Promise<SheetLine[]> {
    const { body } = await ask(this.url, 'GET', `/api/1/sheet/lines?show=${show}&count=1000`);
    return (body as unknown as LinePage).entries.flatMap((entry) =>
      'line' in entry && entry.line.state === 'open' ? [entry.line] : [],
    );
  }

  private async aLine(chance: Chance): Promise<SheetLine | null> {
    const lines = await this.openLines('all');
    // Of the first few, so that hands meet on one line.
    return lines.length === 0 ? null : chance.of(lines.slice(0, 4));
  }

  private note(answer: Answer): Answer {
    const { groups = [], lines } = answer.body as { groups?: string[]; lines?: number };
    if (answer.status === 200 && groups.length === 1) this.groups.set(groups[0]!, lines!);
    return answer;
  }

  private async accept(chance: Chance): Promise<Answer> {
    const keys = [chance.of(this.keys)];
    return this.note(await ask(this.url, 'POST', '/api/1/round/accept', { ...this.window, keys }));
  }

  private async change(chance: Chance): Promise<Answer> {
    return this.note(
      await ask(this.url, 'POST', '/api/1/explore/edit', {
        window: this.window,
        level: 'targets',
        columns: [],
        where: { all: [{ column: 'clicks', is: 'at_least', value: 40 + chance.below(200) }] },
        edit: { field: 'bid', how: 'percent', value: -0.05 - chance.below(20) / 100 },
      }),
    );
  }

  private async edit(chance: Chance): Promise<Answer | null> {
    const line = await this.aLine(chance);
    if (line?.field !== 'bid' || line.action !== 'update') return null;
    const value = String(200_000 + 10_000 * chance.below(60));
    const { line_id, version } = line;
    const answer = await ask(this.url, 'POST', `/api/1/sheet/lines/${line_id}`, { newValue: value, version });
    if (answer.status !== 200) return answer;
    const known = this.edits.get(line_id)?.version ?? 0;
    if (known === version + 1)
      this.report.lost.push(`two edits of version ${version} of line ${line_id} were told to be done`);
    if (known <= version) this.edits.set(line_id, { version: version + 1, value });
    return answer;
  }

  private async remove(chance: Chance): Promise<Answer | null> {
    const line = await this.aLine(chance);
    if (!line) return null;
    const answer = await ask(this.url, 'POST', '/api/1/sheet/lines', { lineIds: [line.line_id] });
    if (answer.status === 200) this.removed.push(line.line_id);
    return answer;
  }

  private async back(chance: Chance): Promise<Answer | null> {
    const lineId = this.removed.splice(chance.below(this.removed.length), 1)[0];
    if (lineId === undefined) return null;
    return ask(this.url, 'POST', '/api/1/sheet/lines', { lineIds: [lineId], back: true });
  }

  private async undo(chance: Chance): Promise<Answer | null> {
    const back = this.undone.length > 0 && chance.next() < 0.5;
    const list = back ? this.undone : [...this.groups.keys()];
    if (list.length === 0) return null;
    const group = chance.of(list);
    if (!back) this.undone.push(group);
    return ask(this.url, 'POST', '/api/1/sheet/undo', { groups: [group], back });
  }

  private async send(chance: Chance): Promise<Answer | null> {
    if (chance.next() < 0.5) return null;
    return this.sendOpen();
  }

  private async sendOpen(): Promise<Answer> {
    const answer = await ask(this.url, 'POST', '/api/1/sheet/send', { clicksMeant: true });
    // Where two say other things of one field somebody keeps one of them: here, none.
    if (answer.body.code === 'conflicts') {
      const lines = await this.openLines('conflicts');
      const lineIds = lines.map(({ line_id }) => line_id);
      if (lineIds.length > 0) await ask(this.url, 'POST', '/api/1/sheet/lines', { lineIds });
    }
    if (answer.status !== 200) return answer;
    const job = await endOf(this.url, 1, (answer.body as { jobId: string }).jobId);
    if (job?.state !== 'done') this.report.hangs.push(`a sheet's job: ${job?.state} ${job?.message}`);
    this.report.sheetsSent++;
    return answer;
  }

  /** What is left leaves too. */
  async end(): Promise<void> {
    await ask(this.url, 'POST', '/api/1/round/accept', { ...this.window, keys: this.keys.slice(0, 20) });
    for (let tries = 0; tries < 5 && (await this.sendOpen()).status !== 200; tries++);
  }

  /** What was told against what stands. */
  async look(theirs: postgres.Sql): Promise<void> {
    const { report, ours } = this;
    const { lost, doubled } = await compareBooks(ours, theirs);
    report.lost.push(...lost);
    report.doubled.push(...doubled);
    const stranded = await ours<{ line_id: string; sheet: string }[]>`
      select l.line_id::text, s.state as sheet from line l join sheet s using (account_id, sheet_id)
      where l.state = 'open' and s.state <> 'open'`;
    report.stranded.push(
      ...stranded.map(({ line_id, sheet }) => `line ${line_id} of a sheet that is ${sheet}`),
    );
    const ids = [...this.edits.keys()];
    const rows = await ours<{ line_id: number; version: number; new_value: string }[]>`
      select line_id::int, version, new_value from line where line_id = any(${ids}::bigint[])`;
    const now = new Map(rows.map((row) => [row.line_id, row]));
    for (const [lineId, { version, value }] of this.edits) {
      const row = now.get(lineId);
      if (!row || row.version < version || (row.version === version && row.new_value !== value))
        report.lost.push(
          `line ${lineId} was told to be ${value} in version ${version}, is ${row?.new_value} in ${row?.version}`,
        );
    }
    const counted = await ours<{ group_key: string; lines: number }[]>`
      select group_key, count(*)::int as lines from line
      where group_key = any(${[...this.groups.keys()]}::text[]) group by group_key`;
    const standing = new Map(counted.map(({ group_key, lines }) => [group_key, lines]));
    for (const [group, lines] of this.groups) {
      const stand = standing.get(group) ?? 0;
      if (stand < lines) report.lost.push(`${lines} lines were told, ${stand} stand`);
      if (stand > lines) report.doubled.push(`${lines} lines were told, ${stand} stand`);
    }
  }
}

/** Several pairs of hands (`hands`) on the sheet of account 1, each acting so often. */
export async function playHands(
  stack: Pick<Stack, 'url' | 'databaseUrl' | 'quaysideBooks'>,
  count: number,
  seed: number,
  hands = 3,
): Promise<HandsReport> {
  const ours = postgres(stack.databaseUrl, { max: 1, onnotice: () => undefined });
  const theirs = postgres(stack.quaysideBooks, { max: 1, onnotice: () => undefined });
  try {
    const { window, keys } = await proposals(stack.url);
    const campaign = new Campaign(stack.url, ours, window, keys, count * hands);
    await Promise.all(
      Array.from({ length: hands }, (_, hand) => campaign.hand(count, new Chance(seed * 101 + hand))),
    );
    await campaign.end();
    await campaign.look(theirs);
    return campaign.report;
  } finally {
    await Promise.all([ours.end(), theirs.end()]);
  }
}
