import { conflictQueueRow, wordQueueRow, type QueueRow } from '../../core/round/queue.ts';
import { phraseClaims } from '../../core/terms/phrase-claims.ts';
import { WordVerdicts } from '../../core/terms/word-verdicts.ts';
import { sumWords } from '../../core/terms/words.ts';
import { windowDays } from '../../core/metrics/days.ts';
import type { Windows } from '../../core/explore/columns.ts';
import { findConflicts, type Conflict } from '../../core/terms/conflicts.ts';
import { coverageOf } from '../../core/terms/coverage.ts';
import { blockedRows } from '../../core/terms/blocked.ts';
import type { AccountMatcher } from '../../core/terms/matcher.ts';
import { negativeImpacts, wouldFlow, type ImpactTerm } from '../../core/terms/negative-impact.ts';
import { appearances, type Appearances } from '../../core/terms/new-terms.ts';
import type { ListSums, NegativeRow } from '../../answers/terms.ts';
import { rowsByProduct, sumTermsOf, type TermGround } from '../../core/terms/sums.ts';
import { ProductWords, type Likeness } from '../../core/terms/likeness.ts';
import type { Belief } from '../../core/evidence/verdict.ts';
import type { AccountTable } from '../../core/explore/table.ts';
import type { Edition } from './edition.ts';
import { breath, mostListed, WordsEngine } from './words.ts';

/** Answers that rest on the matcher: what catches or blocks a term, what is in its own way. */
export class TermsEngine extends WordsEngine {
  /** What the account would do with a term, and how much its words are like those of each product. */
  async coverage(edition: Edition, windows: Windows, term: string) {
    const ground = await this.matching(edition, windows);
    if (!ground) return null;
    return { ...coverageOf(ground, term), likeness: this.likeness(ground, term) };
  }

  /** Likeness of a term to every product, the most alike first. */
  private likeness({ objects, pairs, window }: TermGround, term: string) {
    return objects.products
      .map(({ sku, title }) => {
        const words = new ProductWords(title, provenTerms({ objects, pairs, window }, sku));
        return { sku, title, ...words.of(term) };
      })
      .sort((a, b) => b.share - a.share);
  }

  /** How like the words of terms are to the product that caught them. */
  async likenessTo(edition: Edition, windows: Windows, sku: string, term: string): Promise<Likeness | null> {
    const ground = await this.ground(edition, windows);
    this.rest();
    const product = ground?.objects.products.find((one) => one.sku === sku);
    if (!ground || !product) return null;
    return new ProductWords(product.title, provenTerms(ground, sku)).of(term);
  }

  async conflicts(edition: Edition, windows: Windows, itemCode: string): Promise<Conflict[] | null> {
    const ground = await this.matching(edition, windows);
    if (!ground) return null;
    return findConflicts({
      ...ground,
      days: windowDays(windows.window),
      itemCode: new RegExp(itemCode, 'iu'),
    });
  }

  /** What the round has to decide beside terms and targets: words of every product, and conflicts. */
  async widerFindings(edition: Edition, windows: Windows, order: WiderOrder): Promise<string[] | null> {
    const ground = await this.matching(edition, windows);
    if (!ground) return null;
    const itemCode = new RegExp(order.itemCode, 'iu');
    const days = windowDays(windows.window);
    const targetClicks = ground.open.data.frames.get('')!.targets.clicks;
    const words = await wordFindings({ ...ground, targetClicks }, new Set(order.relevant), itemCode, days);
    const conflicts = findConflicts({ ...ground, days, itemCode });
    // As texts they change threads without being rebuilt.
    return [...words.map(({ row }) => row), ...conflicts.map(conflictQueueRow)].map((row) =>
      JSON.stringify(row),
    );
  }

  /** Every negative with what it keeps away. */
  async negatives(edition: Edition, windows: Windows): Promise<NegativeRow[] | null> {
    const ground = await this.matching(edition, windows);
    if (!ground) return null;
    const { objects } = ground;
    const impacts = negativeImpacts(ground);
    return objects.negatives.flatMap(({ id, matchType, expression, status, adGroup, campaign }, at) =>
      status === 'archived'
        ? []
        : [
            {
              id,
              matchType,
              expression,
              campaignId: objects.campaigns[campaign]!.id,
              campaign: objects.campaigns[campaign]!.name,
              adGroupId: adGroup === null ? null : objects.adGroups[adGroup]!.id,
              adGroup: adGroup === null ? null : objects.adGroups[adGroup]!.name,
              impact: impacts[at]!,
            },
          ],
    );
  }

  /** The terms that would flow again without a negative. */
  async wouldFlow(edition: Edition, windows: Windows, id: string): Promise<ImpactTerm[] | null> {
    const ground = await this.matching(edition, windows);
    if (!ground) return null;
    const at = ground.objects.negatives.findIndex((negative) => negative.id === id);
    return at < 0 ? [] : wouldFlow(ground, at).slice(0, mostListed);
  }

  /** Terms that appeared in the window, and terms that stopped before it; the first of each by spend. */
  async appearances(
    edition: Edition,
    windows: Windows,
    sku: string | null,
    most: number,
  ): Promise<
    | (Appearances & { freshCount: number; stoppedCount: number; freshSums: ListSums; stoppedSums: ListSums })
    | null
  > {
    const ground = await this.ground(edition, windows, ['clicks', 'clicks@before', 'verdict']);
    this.rest();
    if (!ground) return null;
    const { objects, open } = ground;
    const found = appearances(
      { ...ground, comparison: open.data.frames.get('before')!.pairs! },
      windows.window,
      (adGroup) => sku === null || objects.adGroups[adGroup]!.sku === sku,
    );
    return {
      ...found,
      freshCount: found.fresh.length,
      stoppedCount: found.stopped.length,
      freshSums: listSums(found.fresh),
      stoppedSums: listSums(found.stopped),
      fresh: found.fresh.slice(0, most),
      stopped: found.stopped.slice(0, most),
    };
  }
}

export interface WiderOrder {
  itemCode: string;
  /** Words that are never proposed. */
  relevant: string[];
}

type WordGround = TermGround & { table: Pick<AccountTable, 'valueWeight'> };

/** Words that are proposed as a negative phrase, product by product. */
export async function wordFindings(
  ground: WordGround & { matcher: AccountMatcher; targetClicks: ArrayLike<number> },
  relevant: ReadonlySet<string>,
  itemCode: RegExp,
  days: number,
): Promise<{ row: QueueRow; belief: Belief }[]> {
  const { objects, targetClicks } = ground;
  const found: { row: QueueRow; belief: Belief }[] = [];
  const isBlocked = blockedRows(ground, ground.matcher);
  for (const [sku, all] of rowsByProduct(ground)) {
    const rows = all.filter((row) => !isBlocked(row));
    const terms = sumTermsOf(ground, rows, itemCode);
    const sums = await sumWords(terms.texts, terms.figures, breath);
    const verdicts = new WordVerdicts(sums, days, relevant, ground.table.valueWeight);
    const bad = Array.from({ length: verdicts.count }, (_, at) => at).filter((at) => verdicts.isBad(at));
    const proposed = bad.map((at) => ({ at, row: verdicts.row(at) })).filter(({ row }) => row.proposed);
    const phrases = new Set(proposed.map(({ row }) => row.words));
    const isInside = (adGroup: number) => objects.adGroups[adGroup]!.sku === sku;
    const claims = phraseClaims(ground, phrases, isInside, targetClicks, days);
    for (const { at, row } of proposed)
      found.push({ row: wordQueueRow(row, sku, claims.get(row.words)!), belief: verdicts.beliefAt(at) });
  }
  return found;
}

const listSums = (rows: readonly ListSums[]): ListSums =>
  rows.reduce(
    (sum, row) => ({
      clicks: sum.clicks + row.clicks,
      spend: sum.spend + row.spend,
      orders: sum.orders + row.orders,
    }),
    { clicks: 0, spend: 0, orders: 0 },
  );

function* provenTerms(
  { objects, pairs, window }: Pick<TermGround, 'objects' | 'pairs' | 'window'>,
  sku: string,
) {
  for (let row = 0; row < pairs.target.length; row++) {
    const orders = window.orders[row]!;
    if (orders > 0 && objects.adGroups[objects.targets[pairs.target[row]!]!.adGroup]!.sku === sku)
      yield { text: pairs.texts[pairs.term[row]!]!, orders };
  }
}
