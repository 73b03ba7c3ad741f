import type { SeasonDay } from '../../answers/account.ts';
import { levels, type Level, type Within } from '../../core/account/levels.ts';
import { LRUCache } from 'lru-cache';
import { usualOf, type Usual } from '../../core/metrics/explains.ts';
import type { RowBelief, TableAnswer, TableRow } from '../../answers/explore.ts';
import { runningOn } from '../../core/account/running.ts';
import { readColumn, windowOfFrame, type Windows } from '../../core/explore/columns.ts';
import { columnsRead, type Condition, type Value } from '../../core/explore/conditions.ts';
import type { CrossTab } from '../../core/explore/crosstab.ts';
import { laneAdGroups } from '../../core/lanes/ad-groups.ts';
import { laneFlows, mapAdGroups, type LaneFlows, type MapAdGroup } from '../../core/lanes/flow.ts';
import type { FrameSums } from '../../core/account/store.ts';
import type { SortedRows } from '../../core/explore/sorted.ts';
import { AccountTable, type TableData } from '../../core/explore/table.ts';
import { windowDays, type Window } from '../../core/metrics/days.ts';
import type { Lane } from '../../core/lanes/lanes.ts';
import type { Database } from '../db/connection.ts';
import type { Edition } from './edition.ts';
import { LoadedAccount } from '../memory/load.ts';
import { planEdit, type EditOrder, type Preview } from '../../core/edits/plan.ts';
import { wordEffectsOf } from '../account/model.queries.ts';
import { bidHistories, dimensionSums, placementDays } from '../memory/queries.ts';
import { isTime, levelOfCut, piecesOf, tabulate, type Cut, type Piece } from '../../core/explore/tabulate.ts';

/** What is asked of a table. Columns: see core/explore/columns.ts. */
export interface TableOrder {
  level: Level;
  within: Within | null;
  where: Condition | null;
  sort: string | null;
  descending: boolean;
  windows: Windows;
  columns: string[];
}

/** Some rows of those that match: these, or all others. */
export interface Only {
  keys: string[];
  others: boolean;
}

const evidenceColumns = new Set(['verdict', 'over', 'clicks_per_order']);
const mostTables = 6;
const mostQueries = 24;

export interface OpenTable {
  table: AccountTable;
  account: LoadedAccount;
  data: TableData & { frames: Map<string, FrameSums> };
  queries: Map<string, SortedRows>;
  rungs: Map<string, TableAnswer['rungs']>;
}

/** Accounts in memory beside their windows; the longest unasked goes when they are too large together. */
const mostAccountBytes = 2 * 1024 * 1024 * 1024;

const editionKey = ({ accountId, version }: Edition) => `${accountId}|${version}`;

/**
 * Tables of accounts, kept in memory off the request thread. One per worker. Everything kept is kept under the edition
 * it was made for - account and version - so that no call, however late, answers with another's figures.
 */
export class ExploreEngine {
  private readonly accounts = new LRUCache<string, Promise<LoadedAccount | null>>({
    maxSize: mostAccountBytes,
    dispose: (_, key) => {
      this.forgetTables(`${key.split('|')[0]!}|`);
    },
  });
  private readonly tables = new LRUCache<string, OpenTable>({ max: mostTables });
  private readonly words = new LRUCache<string, Promise<Map<string, number>>>({ max: mostTables });

  constructor(private readonly sql: Database) {}

  private forgetTables(prefix: string): void {
    for (const key of [...this.tables.keys()]) if (key.startsWith(prefix)) this.tables.delete(key);
  }

  /** What words tell of terms, as learned last. */
  private wordEffects(edition: Edition): Promise<Map<string, number>> {
    const key = editionKey(edition);
    let known = this.words.get(key);
    if (!known) {
      known = wordEffectsOf(this.sql, edition.accountId);
      this.words.set(key, known);
      known.catch(() => this.words.delete(key));
    }
    return known;
  }

  /** The account as its figures stand; goals and what was learned change tables only. */
  async load(
    { accountId, figures }: Pick<Edition, 'accountId' | 'figures'>,
    withTerms = false,
  ): Promise<LoadedAccount | null> {
    const key = `${accountId}|${figures}`;
    let pending = this.accounts.get(key);
    if (!pending) {
      // Older figures of the same account are asked for no more.
      for (const old of [...this.accounts.keys()])
        if (old.startsWith(`${accountId}|`) && Number(old.split('|')[1]) < Number(figures))
          this.accounts.delete(old);
      pending = LoadedAccount.open(this.sql, accountId, withTerms);
      this.accounts.set(key, pending, { size: 1 });
      pending.catch(() => this.accounts.delete(key));
    }
    const account = await pending;
    if (account && this.accounts.peek(key) === pending)
      this.accounts.set(key, pending, {
        size: Math.min(mostAccountBytes, account.bytes),
        noDisposeOnSet: true,
      });
    return account;
  }

  /** A table with everything read that these columns need; null while there are no figures. */
  async open(
    edition: Edition,
    { level, windows }: Pick<TableOrder, 'level' | 'windows'>,
    refs: readonly string[],
  ): Promise<OpenTable | null> {
    const account = await this.load(edition);
    if (!account) return null;
    const { window, comparison } = windows;
    const key = [editionKey(edition), window.from, window.to, comparison.from, comparison.to].join('|');
    const also = level === 'terms' ? 'pairs' : level === 'placements' ? 'placements' : null;
    const words = await this.wordEffects(edition);
    let open = this.tables.get(key);
    if (open?.account !== account) {
      const { today, objects } = account;
      const data: OpenTable['data'] = {
        today,
        objects,
        pairs: null,
        goals: edition.goals,
        frames: new Map<string, FrameSums>(),
        evidence: null,
        model: { ...edition.model, words },
      };
      open = { table: new AccountTable(data), account, data, queries: new Map(), rungs: new Map() };
      this.tables.set(key, open);
    }
    for (const frame of framesOf(refs, level)) {
      open.data.frames.set(frame, await account.frame(windowOfFrame(frame, windows), also));
    }
    open.data.pairs = account.pairs;
    if (refs.some((ref) => evidenceColumns.has(ref))) {
      const { targets, pairs, placements } = await account.evidenceFor(window, also);
      const known = open.data.evidence;
      open.data.evidence = {
        targets,
        pairs: pairs ?? known?.pairs ?? null,
        placements: placements ?? known?.placements ?? null,
        present: await account.presentAt(edition.model.response, window),
      };
    }
    return open;
  }

  /** Rows that match, kept for the next page and the next edit. */
  find(open: OpenTable, { level, within, where, sort, descending }: TableOrder): SortedRows {
    const key = JSON.stringify([level, within, where, sort, descending]);
    let rows = open.queries.get(key);
    if (!rows) {
      rows = open.table.query({ level, within, where, sort, descending });
      open.queries.set(key, rows);
      if (open.queries.size > mostQueries) open.queries.delete(open.queries.keys().next().value!);
    }
    return rows;
  }

  async query(
    edition: Edition,
    order: TableOrder,
    offset: number,
    limit: number,
  ): Promise<TableAnswer | null> {
    const start = performance.now();
    const { level, columns } = order;
    const open = await this.open(edition, order, refsOf(order));
    if (!open) return null;
    const { table } = open;
    const found = this.find(open, order);
    const totals = table.totals(level, found.rows, [...columns, ...(level === 'negatives' ? [] : ['spend'])]);
    const readers = columns.map((ref) => table.reader(level, ref));
    const judged = columns.includes('verdict');
    const page = [...found.slice(offset, offset + limit)];
    const history = await this.histories(edition, open, level, columns, page);
    const rows = page.map((row, at): TableRow => ({
      key: table.key(level, row),
      values: readers.map((read, i) =>
        columns[i] === 'bid_history' ? (history[at] ?? null) : finite(read(row)),
      ),
      ...(judged
        ? { interval: table.intervalAt(level, row), targetAcos: table.goalAt(level, row).targetAcos }
        : {}),
    }));
    return {
      count: found.length,
      totals: columns.map((ref) => finite(totals[ref] ?? null)),
      spend: (totals.spend as number | undefined) ?? 0,
      rows,
      windows: order.windows,
      rungs: this.rungs(open, level, order.within),
      path: order.within ? table.pathTo(order.within) : [],
      milliseconds: performance.now() - start,
    };
  }

  /** How many rows every level has inside an object: counted once for each. Terms are read only where they are shown. */
  private rungs({ table, rungs }: OpenTable, shown: Level, within: Within | null): TableAnswer['rungs'] {
    const key = `${shown === 'terms'}|${within ? `${within.level}|${within.id}` : ''}`;
    let known = rungs.get(key);
    if (!known) {
      const countOf = (level: Level): number | null => {
        if (level === 'terms' && shown !== 'terms') return null;
        const all = table.count(level);
        if (!within) return all;
        const inside = table.isInside(level, within);
        let sum = 0;
        for (let row = 0; row < all; row++) if (inside(row)) sum++;
        return sum;
      };
      known = Object.fromEntries(levels.map((level) => [level, countOf(level)])) as TableAnswer['rungs'];
      rungs.set(key, known);
    }
    return known;
  }

  /** The bids of a page of targets or terms as texts, when their column is shown. */
  private async histories(
    { accountId }: Edition,
    { table, account }: OpenTable,
    level: Level,
    columns: readonly string[],
    page: readonly number[],
  ): Promise<(string | undefined)[]> {
    if (!columns.includes('bid_history')) return [];
    const ids = page.map((row) => account.objects.targets[table.targetOf(level, row)]!.id);
    const known = await bidHistories(this.sql, accountId, ids);
    return ids.map((id) => known.get(id));
  }

  /** What an edit would do, row by row, and the lines that do it when they are wanted: by the thousand they cost much. */
  async edit(
    edition: Edition,
    order: TableOrder,
    wanted: EditOrder,
    most: number,
    withDrafts: boolean,
  ): Promise<{ preview: Preview; drafts: string } | null> {
    const { level, windows } = order;
    const isBid = wanted.edit.field === 'bid' || wanted.edit.field === 'lane';
    const open = await this.open(edition, order, [...refsOf(order), ...(isBid ? ['cpc', 'verdict'] : [])]);
    if (!open) return null;
    const { table, account, data } = open;
    if (wanted.edit.field === 'negative') await this.open(edition, order, ['clicks']);
    const found = this.find(open, order).slice(0, Infinity);
    const keys = wanted.keys === null ? null : new Set(wanted.keys);
    const rows = keys ? found.filter((row) => keys.has(table.key(level, row))) : found;
    const ground = {
      table,
      objects: account.objects,
      frame: data.frames.get('') ?? null,
      today: account.today,
      days: windowDays(windows.window),
    };
    const { preview, drafts } = planEdit(ground, level, rows, wanted, most, withDrafts);
    // As one text tens of thousands of lines change threads in a fraction of the time.
    return { preview, drafts: JSON.stringify(drafts) };
  }

  /** Quartiles of a column over the rows that match and have a value; null where fewer than four do. */
  async usual(edition: Edition, order: TableOrder, ref: string): Promise<Usual | null> {
    const open = await this.open(edition, order, [...refsOf(order), ref]);
    if (!open) return null;
    const read = open.table.reader(order.level, ref);
    const numbers = Array.from(this.find(open, order).rows, (row) => read(row));
    return usualOf(numbers.filter((value) => typeof value === 'number'));
  }

  /** What is believed of one row, and what stands around it; null when it is not there. */
  async row(
    edition: Edition,
    level: 'targets' | 'terms',
    windows: Windows,
    key: string,
  ): Promise<RowBelief | null> {
    const open = await this.open(edition, { level, windows }, ['clicks', 'verdict']);
    if (!open) return null;
    const { table, account } = open;
    let row = 0;
    const rows = table.count(level);
    while (row < rows && table.key(level, row) !== key) row++;
    if (row === rows) return null;
    const target = account.objects.targets[table.targetOf(level, row)]!;
    const { prior, gamma, value, cpc } = table.belief(level, row);
    const text = (ref: string) => table.reader(level, ref)(row) as string | null;
    return {
      name: table.nameOf(level, row),
      place: [text('campaign'), text('ad_group')].filter((one, i, all) => all.indexOf(one) === i).join(', '),
      sku: text('product'),
      targetId: target.id,
      target: target.expression,
      matchType: target.matchType,
      bid: target.bid,
      prior,
      gamma,
      value,
      cpc,
      over: table.reader(level, 'over')(row) as number | null,
      targetAcos: table.goalAt(level, row).targetAcos,
      served: level === 'terms' ? text('served') : null,
      blocked: level === 'terms' ? text('blocked') : null,
    };
  }

  /** What went down lanes in the window, and the ad groups of their map. */
  async laneMap(
    edition: Edition,
    windows: Windows,
    lanes: readonly Lane[],
  ): Promise<(LaneFlows & { adGroups: MapAdGroup[] }) | null> {
    const open = await this.open(edition, { level: 'terms', windows }, ['clicks']);
    if (!open) return null;
    const { objects, pairs, frames, today } = open.data;
    const runs = runningOn(objects, today);
    const { targets, pairs: terms } = frames.get('')!;
    const ground = { objects, runs, pairs: pairs!, targets, terms: terms! };
    return {
      ...laneFlows(ground, lanes),
      adGroups: mapAdGroups(ground, laneAdGroups(objects, runs), lanes),
    };
  }

  /** Sums by day of all rows that match. */
  async trend(
    edition: Edition,
    order: TableOrder,
    span: Window,
    only: Only | null,
  ): Promise<SeasonDay[] | null> {
    const open = await this.open(edition, order, refsOf(order));
    if (!open) return null;
    const { level } = order;
    const { account, table } = open;
    const all = this.find(open, order).rows;
    const keys = new Set(only?.keys);
    const found = only ? all.filter((row) => keys.has(table.key(level, row)) !== only.others) : all;
    if (level === 'placements') {
      const rows = [...found].map((row) => account.objects.placements[row]!);
      const campaigns = rows.map(({ campaign }) => account.objects.campaigns[campaign]!.id);
      const names = rows.map(({ placement }) => placement);
      return placementDays(this.sql, edition.accountId, span, campaigns, names);
    }
    return account.daySums(level === 'terms' ? 'pairs' : 'targets', span, table.marksOf(level, found));
  }

  /** A cross-tab of all that matches: of campaigns by the hour, of placements, else of targets, as the cut asks. */
  async crossTab(
    edition: Edition,
    order: Pick<TableOrder, 'within' | 'where' | 'windows'>,
    cut: Cut,
  ): Promise<CrossTab | null> {
    const level = levelOfCut(cut);
    const wanted: TableOrder = { ...order, level, sort: null, descending: false, columns: [] };
    const open = await this.open(edition, wanted, refsOf(wanted));
    if (!open) return null;
    const { table, account, data } = open;
    const found = this.find(open, wanted).rows;
    const times = [cut.rows, cut.columns].filter(isTime);
    if (level !== 'campaigns' && times.length === 0)
      return tabulate(table, level, piecesOf(found, data.frames.get('')![level]!), cut);
    const inside = new Set(found);
    const pieces: Piece[] = [];
    const { window } = order.windows;
    await dimensionSums(this.sql, edition.accountId, level, window, times, (ids, buckets, figures) => {
      const row = account.placeOf(level, ids);
      if (row !== undefined && inside.has(row)) pieces.push({ row, times: buckets, figures });
    });
    return tabulate(table, level, pieces, cut);
  }
}

/** JSON knows no Infinity: spend without sales travels as its words. */
const finite = (value: Value): Value => (value === Infinity ? 'no sales' : value);

const refsOf = ({ columns, where, sort, level }: TableOrder): string[] => [
  ...columns,
  ...(where ? columnsRead(where) : []),
  ...(sort === null ? [] : [sort]),
  ...(level === 'negatives' ? [] : ['spend']),
];

/** The frames whose sums these columns read. */
function framesOf(refs: readonly string[], level: Level): Set<string> {
  const frames = new Set<string>();
  for (const ref of refs) {
    const column = readColumn(ref, level);
    if (!column) continue;
    if (column.column.figure || evidenceColumns.has(column.column.name)) {
      if (column.frame === 'diff' || column.frame === 'change') frames.add('').add('before');
      else frames.add(column.frame);
    }
  }
  return frames;
}
