import { effectsByGoal, goalLookup, overGoals, weekNow, type GoalLookup } from './scopes.ts';
import { unusualClicks } from './unusual.queries.ts';
import { LRUCache } from 'lru-cache';
import type { LineNumbers, LinePage, OpenSheet, PageEntry } from '../../answers/changes.ts';
import { addEffects, claimingOfLine, totalEffect, type LineDraft } from '../../core/changes/lines.ts';
import type { Claiming } from '../../core/effect/claims.ts';
import {
  arrange,
  entriesOf,
  linesIn,
  type ArrangedSheet,
  type LineView,
  type PlacedLine,
} from '../../core/changes/sheet.ts';
import type { Effect } from '../../core/effect/types.ts';
import { apart, db } from '../db/connection.ts';
import { notFound } from '../errors.ts';
import { linesOfSheet } from './lines.queries.ts';
import { openSheetId } from './sheets.queries.ts';
import { linesSince, overtakenLines, sheetVersion, type KnownRow } from './sheet.queries.ts';

/**
 * Sheets as they stand, kept in memory while nothing of them changes: which lines there are, in which order, what they
 * do together. Lines themselves are read page by page.
 */

interface KnownLine extends PlacedLine {
  ad_group_id: string | null;
  conflict_key: string;
  effect: Effect | null;
  claiming: Claiming | null;
  /** It changes what runs: not what is made, nor what a name or a rule is. */
  movesMoney: boolean;
  /** Of a campaign that is made its budget, micros. */
  budget: NewBudget;
}

const claimingOf = (row: KnownRow): Claiming | null =>
  claimingOfLine({
    action: row.action as LineDraft['action'],
    entity: row.entity as LineDraft['entity'],
    objectId: row.object_id,
    field: row.field,
    newValue: row.new_value,
    matchType: row.match_type,
    expression: row.expression,
    effect: row.effect,
  });

interface NewBudget {
  daily: number;
  lifetime: number;
}

const noBudget: NewBudget = { daily: 0, lifetime: 0 };
const budgetOf = ({ action, entity, field, new_value: budget }: KnownRow): NewBudget =>
  action === 'create' && entity === 'campaign'
    ? { ...noBudget, [field === 'lifetime_budget' ? 'lifetime' : 'daily']: Number(budget ?? 0) }
    : noBudget;

/** What its lines come to together. */
type Together = Pick<OpenSheet, 'effect' | 'overGoal' | 'unusual'>;

/** What is known of a sheet. Whoever asks for it brings it up to date; those who ask take turns. */
class KnownSheet {
  version = -1;
  #data = -1;
  #state = '';
  #origin = '';
  #written = -1;
  #lines = new Map<number, KnownLine>();
  /** Open lines by what they set. */
  #rivals = new Map<string, KnownLine[]>();
  #names = new Map<string, string>();
  #arranged: ArrangedSheet | null = null;
  #effects: {
    version: number;
    goalAt: GoalLookup;
    made: Promise<Together>;
  } | null = null;
  conflicts = 0;
  overtaken = 0;

  constructor(
    readonly accountId: number,
    readonly sheetId: number,
  ) {}

  get size(): number {
    return this.#lines.size;
  }

  /** What the lines do together, and scopes that they would put over their goal: kept while lines and goals stay. */
  async effects(): Promise<Together> {
    const goalAt = await goalLookup(this.accountId);
    const known = this.#effects;
    if (known?.version === this.version && known.goalAt === goalAt) return known.made;
    const made = this.#together(goalAt);
    this.#effects = { version: this.version, goalAt, made };
    made.catch(() => (this.#effects = null));
    return made;
  }

  async #together(goalAt: GoalLookup): Promise<Together> {
    // Lines come in the order in which they were made, but for those that were brought back.
    const lines = [...this.#lines.values()].sort((a, b) => a.line_id - b.line_id);
    const byGoal = effectsByGoal(lines, goalAt);
    const names = (id: string) => lines.find((line) => line.campaign_id === id)?.campaign ?? id;
    return {
      effect: byGoal.length === 0 ? totalEffect([]) : addEffects(byGoal.map((one) => one.effect)),
      overGoal: await overGoals(this.accountId, byGoal, names),
      unusual: await unusualClicks(db(), this.accountId, this.sheetId),
    };
  }

  /** What campaigns that it makes may spend, micros: those with a budget a day, and those with one for all days. */
  get newBudgets(): NewBudget {
    const sum = { ...noBudget };
    for (const { budget } of this.#lines.values()) {
      sum.daily += budget.daily;
      sum.lifetime += budget.lifetime;
    }
    return sum;
  }

  /** Lines that change what runs and of which, and of those that go with them, nothing is forecast. */
  get unforecast(): number {
    const told = new Set<string>();
    for (const { harvest, effect } of this.#lines.values()) if (harvest && effect) told.add(harvest);
    let count = 0;
    for (const { movesMoney, harvest, effect } of this.#lines.values())
      if (movesMoney && !effect && !(harvest && told.has(harvest))) count++;
    return count;
  }

  get arranged(): ArrangedSheet {
    return (this.#arranged ??= arrange([...this.#lines.values()]));
  }

  /** Reads what is new since it was last asked for. */
  async refresh(): Promise<void> {
    for (;;) {
      const now = await sheetVersion(db(), this.accountId, this.sheetId);
      if (!now) throw notFound(`sheet ${this.sheetId}`);
      // A sheet that leaves may have left lines behind, and a package brings others: it is read anew.
      if (now.state !== this.#state || now.origin !== this.#origin) this.#forget();
      const same = now.version === this.version;
      if (same && (now.data === this.#data || now.state !== 'open')) return;
      if (!same) {
        const first = this.version < 0;
        this.#take(await linesSince(db(), this.accountId, this.sheetId, this.#written));
        // Whoever reads a sheet for the first time will look at it: its first page need not wait for its order.
        if (first) this.#arranged = this.arranged;
      }
      if (now.state === 'open' && now.data !== this.#data && this.#data >= 0) {
        const behind = new Set(await overtakenLines(db(), this.accountId, this.sheetId));
        for (const line of this.#lines.values()) line.overtaken = behind.has(line.line_id);
      }
      this.version = now.version;
      this.#data = now.data;
      this.#state = now.state;
      this.#origin = now.origin;
      this.#count();
    }
  }

  #count(): void {
    this.conflicts = 0;
    this.overtaken = 0;
    for (const line of this.#lines.values()) {
      if (line.conflict) this.conflicts++;
      if (line.overtaken) this.overtaken++;
    }
  }

  #forget(): void {
    this.version = -1;
    this.#written = -1;
    this.#data = -1;
    this.#lines = new Map();
    this.#rivals = new Map();
    this.#arranged = null;
    this.#effects = null;
  }

  #take(rows: KnownRow[]): void {
    for (const row of rows) {
      this.#written = Math.max(this.#written, row.written);
      const known = this.#lines.get(row.line_id);
      if (known) this.#rival(known, false);
      if (row.state === 'removed') {
        if (this.#lines.delete(row.line_id)) this.#arranged = null;
        continue;
      }
      if (known) {
        known.state = row.state;
        known.overtaken = row.overtaken;
        known.effect = row.effect;
        known.claiming = claimingOf(row);
        known.spend = row.effect?.spend ?? null;
        known.budget = budgetOf(row);
      } else {
        this.#lines.set(row.line_id, this.#known(row));
        this.#arranged = null;
      }
      this.#rival(this.#lines.get(row.line_id)!, row.state === 'open');
    }
  }

  /** Counts a line among the open ones that set the same, or no longer. */
  #rival(line: KnownLine, open: boolean): void {
    const others = (this.#rivals.get(line.conflict_key) ?? []).filter((one) => one !== line);
    const now = open ? [...others, line] : others;
    if (now.length > 0) this.#rivals.set(line.conflict_key, now);
    else this.#rivals.delete(line.conflict_key);
    line.conflict = false;
    for (const one of now) one.conflict = now.length > 1;
  }

  #known(row: KnownRow): KnownLine {
    return {
      line_id: row.line_id,
      campaign_id: row.campaign_id,
      ad_group_id: row.ad_group_id,
      campaign: this.#name(row.campaign),
      ad_group: row.ad_group === null ? null : this.#name(row.ad_group),
      entity: row.entity,
      action: row.action,
      harvest: row.harvest,
      expression: row.expression,
      state: row.state,
      conflict: false,
      overtaken: row.overtaken,
      spend: row.effect?.spend ?? null,
      conflict_key: row.conflict_key,
      effect: row.effect,
      claiming: claimingOf(row),
      movesMoney: row.action !== 'create' && row.field !== 'name' && row.field !== 'rule',
      budget: budgetOf(row),
    };
  }

  /** One text for a name that stands in thousands of lines. */
  #name(name: string): string {
    const known = this.#names.get(name);
    if (known !== undefined) return known;
    this.#names.set(name, name);
    return name;
  }
}

/** Bytes that one line takes here, about. */
const lineBytes = 900;
const kept = new LRUCache<string, { sheet: KnownSheet; turn: Promise<void> }>({
  maxSize: 256 * 1024 * 1024,
});

/** A sheet as it stands now. */
async function sheetNow(accountId: number, sheetId: number): Promise<KnownSheet> {
  const key = `${accountId}|${sheetId}`;
  const known = kept.get(key) ?? {
    sheet: new KnownSheet(accountId, sheetId),
    turn: Promise.resolve(),
  };
  const mine = known.turn.then(() => apart(() => known.sheet.refresh()));
  known.turn = mine.catch(() => undefined);
  kept.set(key, known, { size: 1 });
  try {
    await mine;
  } catch (error) {
    // Half of what is new may have been taken: nothing of it is known then.
    kept.delete(key);
    throw error;
  }
  kept.set(key, known, { size: 1 + known.sheet.size * lineBytes });
  return known.sheet;
}

/** The open sheet in figures: how many lines, what they should do per week, what stands in the way of sending. */
export async function openSheet(accountId: number): Promise<OpenSheet> {
  const sheetId = await openSheetId(db(), accountId);
  const [sheet, week] = await Promise.all([sheetNow(accountId, sheetId), weekNow(accountId)]);
  const { version, size, conflicts, overtaken, unforecast, newBudgets } = sheet;
  return {
    sheetId,
    version,
    lines: size,
    conflicts,
    overtaken,
    unforecast,
    newBudgets,
    week,
    ...(await sheet.effects()),
  };
}

/** Entries `from` to `from + count` of a view of a sheet. */
export async function pageOf(
  accountId: number,
  sheetId: number,
  view: LineView,
  from: number,
  count: number,
): Promise<LinePage> {
  const { version, arranged: sheet } = await sheetNow(accountId, sheetId);
  const all = entriesOf(sheet, view);
  const part = all.slice(from, from + count);
  const lineIds = part.flatMap((entry) => ('line' in entry ? [sheet.lines[entry.line]!.line_id] : []));
  const rows = await linesOfSheet(db(), accountId, sheetId, { lineIds });
  const byId = new Map(rows.map((line) => [line.line_id, line]));
  const entries = part.flatMap((entry): PageEntry[] => {
    if ('head' in entry) return [entry];
    const placed = sheet.lines[entry.line]!;
    const line = byId.get(placed.line_id);
    // Gone since the sheet was read: the next reading tells.
    if (!line) return [];
    const { conflict, overtaken } = placed;
    return [
      { line: { ...line, conflict, overtaken, harvest: sheet.groups[sheet.groupOf[entry.line]!]!.harvest } },
    ];
  });
  const lines = all.reduce((sum, entry) => sum + Number('line' in entry), 0);
  return { version, total: all.length, lines, entries };
}

/** A page of the open sheet. */
export const openPage = async (
  accountId: number,
  view: LineView,
  from: number,
  count: number,
): Promise<LinePage> => pageOf(accountId, await openSheetId(db(), accountId), view, from, count);

/** The numbers of the lines of a group, or of all that a view of the open sheet shows. */
export async function openNumbers(
  accountId: number,
  which: { group: string } | { view: LineView },
): Promise<LineNumbers> {
  const { version, arranged: sheet } = await sheetNow(accountId, await openSheetId(db(), accountId));
  const at = 'group' in which ? sheet.groups.findIndex(({ key }) => key === which.group) : -1;
  const chosen =
    'view' in which
      ? linesIn(sheet, which.view)
      : [...sheet.lines.keys()].filter((i) => at >= 0 && sheet.groupOf[i] === at);
  return { version, lineIds: chosen.map((i) => sheet.lines[i]!.line_id) };
}
