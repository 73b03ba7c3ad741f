import type { IdleAnswer, IdleRow, IdleSpan } from '../../answers/idle.ts';
import { runningOn } from '../../core/account/running.ts';
import { chanceOfNoOrder } from '../../core/evidence/verdict.ts';
import { windowEnding } from '../../core/metrics/days.ts';
import { evidenceDays } from '../../core/metrics/weights.ts';
import type { Database } from '../db/connection.ts';
import { bidHistories } from '../memory/queries.ts';
import { idleSums } from '../memory/without-orders.ts';
import type { Edition } from './edition.ts';
import type { ExploreEngine } from './engine.ts';

/** Finds what costs and sells nothing. */
export class IdleEngine {
  constructor(
    private readonly sql: Database,
    private readonly tables: ExploreEngine,
  ) {}

  /**
   * Running targets, or terms that nothing blocks, with clicks and no order over a span of days, those that cost most
   * first; null while there are no figures. `curve`: the account's maturity.
   */
  async list(
    edition: Edition,
    level: 'targets' | 'terms',
    span: IdleSpan,
    curve: readonly number[],
    { offset, limit, text }: { offset: number; limit: number; text: string },
  ): Promise<IdleAnswer | null> {
    const account = await this.tables.load(edition);
    if (!account) return null;
    const window = windowEnding(account.settledTo ?? account.today, evidenceDays);
    const windows = { window, comparison: window };
    const open = await this.tables.open(edition, { level, windows }, ['clicks', 'verdict', 'blocked']);
    const { table } = open!;
    const sums = await idleSums(account, level === 'terms' ? 'pairs' : 'targets', span, curve);
    const { objects } = account;
    const runs = runningOn(objects, account.today);
    const blocked = level === 'terms' ? table.reader(level, 'blocked') : null;
    const wanted = text.toLowerCase();
    const found: number[] = [];
    const all = { clicks: 0, spend: 0 };
    for (let row = 0; row < table.count(level); row++) {
      if (!(sums.clicks[row]! > 0) || sums.orders[row]! > 0) continue;
      if (!runs.target(table.targetOf(level, row))) continue;
      if (blocked?.(row)) continue;
      if (wanted !== '' && !table.nameOf(level, row).toLowerCase().includes(wanted)) continue;
      found.push(row);
      all.clicks += sums.clicks[row]!;
      all.spend += sums.spend[row]!;
    }
    found.sort((a, b) => sums.spend[b]! - sums.spend[a]! || a - b);
    const page = found.slice(offset, offset + limit);
    const ids = page.map((row) => objects.targets[table.targetOf(level, row)]!.id);
    const histories = await bidHistories(this.sql, edition.accountId, ids);
    const rows = page.map((row): IdleRow => {
      const target = objects.targets[table.targetOf(level, row)]!;
      const adGroup = objects.adGroups[target.adGroup]!;
      const name = table.nameOf(level, row);
      return {
        key: table.key(level, row),
        findingKey: level === 'targets' ? `target:${target.id}:bid` : `term:${adGroup.id}:${name}`,
        name,
        matchType: target.matchType,
        kind: target.kind,
        target: target.expression,
        adGroup: adGroup.name,
        campaign: objects.campaigns[adGroup.campaign]!.name,
        sku: adGroup.sku,
        bid: target.bid,
        changedOn: target.changedOn,
        clicks: sums.clicks[row]!,
        spend: sums.spend[row]!,
        sold: 1 - chanceOfNoOrder(table.belief(level, row).prior.mu, sums.weighted[row]!),
        bids: histories.get(target.id) ?? null,
        isTolerated: false,
      };
    });
    return { count: found.length, ...all, rows };
  }
}
