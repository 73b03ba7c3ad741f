import { blockedRows } from '../../core/terms/blocked.ts';
import { AccountMatcher } from '../../core/terms/matcher.ts';
import type { Objects } from '../../core/account/store.ts';
import { phraseClaims } from '../../core/terms/phrase-claims.ts';
import type { AccountTable } from '../../core/explore/table.ts';
import { runningOn, type Running } from '../../core/account/running.ts';
import { posterior, usualStrength } from '../../core/evidence/prior.ts';
import { valuePerOrder } from '../../core/evidence/value.ts';
import type { Belief } from '../../core/evidence/verdict.ts';
import { windowDays } from '../../core/metrics/days.ts';
import type { Windows } from '../../core/explore/columns.ts';
import type { Collateral, TermLine, WordsAnswer } from '../../answers/terms.ts';
import { sumTerms, type SummedTerms, type TermGround } from '../../core/terms/sums.ts';
import { normalise, otherNumber, wordsOf } from '../../core/text/normalise.ts';
import { WordVerdicts } from '../../core/terms/word-verdicts.ts';
import { sumWords, type WordSums } from '../../core/terms/words.ts';
import type { Edition } from './edition.ts';
import type { ExploreEngine, OpenTable } from './engine.ts';

/** What is asked of the words: of all terms, or of those of one product. */
export interface WordsOrder {
  sku: string | null;
  itemCode: string;
  /** Words that are never proposed. */
  relevant: string[];
  text: string;
  only: 'all' | 'proposed' | 'over' | 'relevant';
  sort: WordSort;
  descending: boolean;
  most: number;
}

export const wordSorts = ['words', 'terms', 'clicks', 'spend', 'orders', 'sales', 'acos', 'worth'] as const;
export type WordSort = (typeof wordSorts)[number];

export interface Progress {
  doing: string;
  done: number;
  of: number;
}

/** Terms with their sums, and in how many places a negative keeps them away already. */
type TermsLeft = SummedTerms & { out: number };

interface Kept<T> {
  key: string;
  made: Promise<T>;
}

export const breath = (): Promise<void> => new Promise((done) => setImmediate(done));

/** Words of the account's search terms, beside the tables that hold their sums. One per worker. */
export class WordsEngine {
  private words: Kept<{ terms: TermsLeft; sums: WordSums }> | null = null;
  private state: Progress | null = null;

  constructor(private readonly tables: ExploreEngine) {}

  /** How far the sums are that somebody waits for; null while nobody does. */
  progress(): Progress | null {
    return this.state;
  }

  /** Nobody waits any more. */
  protected rest(): void {
    this.state = null;
  }

  /** The table of terms with window and evidence read; null while there are no figures. */
  protected async ground(
    edition: Edition,
    windows: Windows,
    refs: readonly string[] = ['clicks', 'verdict'],
  ): Promise<(TermGround & { table: AccountTable; open: OpenTable; runs: Running }) | null> {
    this.state ??= { doing: 'Reading the terms', done: 0, of: 0 };
    const open = await this.tables.open(edition, { level: 'terms', windows }, refs);
    if (!open) return null;
    const { table, data } = open;
    return {
      open,
      table,
      objects: data.objects,
      runs: runningOn(data.objects, data.today),
      pairs: data.pairs!,
      window: data.frames.get('')!.pairs!,
      evidence: data.evidence!.pairs!,
    };
  }

  private matcher: { objects: Objects; made: AccountMatcher } | null = null;

  /** The same with what catches and blocks terms; nobody waits for it any more. */
  protected async matching(edition: Edition, windows: Windows) {
    const ground = await this.ground(edition, windows);
    this.rest();
    return ground && { ...ground, matcher: this.matcherOf(ground.objects, ground.runs) };
  }

  private matcherOf(objects: Objects, runs: Running): AccountMatcher {
    // New objects come with every new edition.
    if (this.matcher?.objects !== objects)
      this.matcher = { objects, made: new AccountMatcher(objects, runs) };
    return this.matcher.made;
  }

  private wordsOf(
    edition: Edition,
    windows: Windows,
    ground: TermGround & { runs: Running },
    sku: string | null,
    itemCode: string,
  ): Promise<{ terms: TermsLeft; sums: WordSums }> {
    const { from, to } = windows.window;
    const key = [edition.accountId, edition.version, from, to, sku].join('|');
    if (this.words?.key === key) return this.words.made;
    const make = async () => {
      const { adGroups } = ground.objects;
      const terms = sumTerms(
        ground,
        (adGroup) => sku === null || adGroups[adGroup]!.sku === sku,
        new RegExp(itemCode, 'iu'),
        blockedRows(ground, this.matcherOf(ground.objects, ground.runs)),
      );
      const of = terms.texts.length;
      const sums = await sumWords(terms.texts, terms.figures, async (done) => {
        this.state = { doing: 'Summing the words of terms', done, of };
        await breath();
      });
      return { terms, sums };
    };
    const made = make();
    this.words = { key, made };
    made.catch(() => (this.words = null));
    return made;
  }

  /** Sequences of words with their sums and verdicts: those that match, in order, the first of them. */
  async wordTable(edition: Edition, windows: Windows, order: WordsOrder): Promise<WordsAnswer | null> {
    const start = performance.now();
    try {
      const ground = await this.ground(edition, windows);
      if (!ground) return null;
      const { terms, sums } = await this.wordsOf(edition, windows, ground, order.sku, order.itemCode);
      const verdicts = new WordVerdicts(
        sums,
        windowDays(windows.window),
        new Set(order.relevant),
        ground.table.valueWeight,
      );
      return { ...wordAnswer(terms, sums, verdicts, order), milliseconds: performance.now() - start };
    } finally {
      this.state = null;
    }
  }

  /** What a negative phrase of these words would block. */
  async collateral(
    edition: Edition,
    windows: Windows,
    sku: string | null,
    words: string,
    itemCode: string,
  ): Promise<Collateral | null> {
    const ground = await this.ground(edition, windows);
    this.state = null;
    if (!ground) return null;
    const { terms } = await this.wordsOf(edition, windows, ground, sku, itemCode);
    this.state = null;
    return collateralOf(ground, terms, sku, words, windowDays(windows.window));
  }
}

const compare: Record<WordSort, (sums: WordSums, verdicts: WordVerdicts) => (at: number) => number> = {
  words: () => (at) => at,
  terms:
    ({ terms, sequences }) =>
    (at) =>
      terms[sequences[at]!]!,
  clicks:
    ({ figures }) =>
    (at) =>
      figures.clicks[at]!,
  spend:
    ({ figures }) =>
    (at) =>
      figures.spend[at]!,
  orders:
    ({ figures }) =>
    (at) =>
      figures.orders[at]!,
  sales:
    ({ figures }) =>
    (at) =>
      figures.sales[at]!,
  acos:
    ({ figures }) =>
    (at) =>
      figures.spend[at] === 0
        ? -1
        : figures.sales[at] === 0
          ? 1e9 + figures.spend[at]!
          : figures.spend[at]! / figures.sales[at]!,
  worth: (_, verdicts) => (at) => verdicts.worthAt(at),
};

function wordAnswer(
  terms: TermsLeft,
  sums: WordSums,
  verdicts: WordVerdicts,
  order: WordsOrder,
): Omit<WordsAnswer, 'milliseconds'> {
  const needle = ` ${normalise(order.text)} `;
  const relevant = new Set(order.relevant);
  const found: number[] = [];
  let proposed = 0;
  let over = 0;
  let worth = 0;
  for (let at = 0; at < verdicts.count; at++) {
    let isProposed = false;
    if (verdicts.isOver(at)) over++;
    if (verdicts.isBad(at)) {
      const row = verdicts.row(at);
      isProposed = row.proposed;
      if (isProposed) {
        proposed++;
        worth += row.worth;
      }
    }
    if (order.only === 'over' && !verdicts.isOver(at)) continue;
    if (order.only === 'proposed' && !isProposed) continue;
    if (order.only === 'all' && sums.figures.impressions[at] === 0) continue;
    if (order.only === 'relevant' || needle.trim() !== '') {
      const text = sums.tree.text(sums.sequences[at]!);
      if (order.only === 'relevant' && !relevant.has(text)) continue;
      if (needle.trim() !== '' && !` ${text} `.includes(needle.trimEnd())) continue;
    }
    found.push(at);
  }
  const total = (column: Float64Array) => column.reduce((a, b) => a + b, 0);
  return {
    count: found.length,
    proposed,
    over,
    worth,
    terms: terms.texts.length,
    blocked: terms.out,
    spend: total(terms.figures.spend),
    orders: total(terms.figures.orders),
    rows: sortWords(found, sums, verdicts, order)
      .slice(0, order.most)
      .map((at) => verdicts.row(at)),
  };
}

function sortWords(
  found: number[],
  sums: WordSums,
  verdicts: WordVerdicts,
  { sort, descending }: WordsOrder,
): number[] {
  const sign = descending ? -1 : 1;
  if (sort === 'words') {
    const texts = new Map(found.map((at) => [at, sums.tree.text(sums.sequences[at]!)]));
    return found.sort((a, b) => sign * (texts.get(a)! < texts.get(b)! ? -1 : 1));
  }
  const read = compare[sort](sums, verdicts);
  const keys = new Map(found.map((at) => [at, read(at)]));
  return found.sort(
    (a, b) => sign * (keys.get(a)! - keys.get(b)!) || sums.figures.spend[b]! - sums.figures.spend[a]!,
  );
}

/** Longer lists of terms are for Explore. */
export const mostListed = 200;
const mostTwins = 3;

/** What is believed of terms together, against what the siblings of each say. */
function beliefOf(
  together: { n: number; y: number; expected: number; values: number; seenOrders: number; seenSales: number },
  sum: { clicks: number; spend: number },
  weight: number,
): Belief {
  const { n, y, expected, values, seenOrders, seenSales } = together;
  const prior = { mu: n > 0 ? expected / n : 0.01, strength: usualStrength, doubt: 0 };
  return {
    gamma: posterior(prior, n, y),
    value: valuePerOrder({ mean: n > 0 ? values / n : 0, weight }, seenSales, seenOrders),
    cpc: sum.clicks > 0 ? sum.spend / sum.clicks : null,
  };
}

function collateralOf(
  ground: TermGround & { open: OpenTable; runs: Running },
  terms: SummedTerms,
  sku: string | null,
  words: string,
  days: number,
): Collateral {
  const needle = ` ${normalise(words)} `;
  const has = (text: string) => ` ${wordsOf(text).join(' ')} `.includes(needle);
  const other = otherNumber(wordsOf(words));
  const twins = new Map<string, Collateral['twins'][number]>();
  const sum = { terms: 0, clicks: 0, spend: 0, orders: 0, sales: 0 };
  const lines: TermLine[] = [];
  const blocked = new Set<number>();
  const together = { n: 0, y: 0, expected: 0, values: 0, seenOrders: 0, seenSales: 0 };
  terms.texts.forEach((term, at) => {
    const { clicks, spend, orders, sales } = terms.figures;
    if (!has(term)) {
      const words = other(term);
      if (words === null) return;
      const twin = twins.get(words) ?? { words, terms: 0, clicks: 0, spend: 0, orders: 0, sales: 0 };
      twin.terms++;
      twin.clicks += clicks[at]!;
      twin.spend += spend[at]!;
      twin.orders += orders[at]!;
      twin.sales += sales[at]!;
      twins.set(words, twin);
      return;
    }
    const line = { term, clicks: clicks[at]!, spend: spend[at]!, orders: orders[at]!, sales: sales[at]! };
    blocked.add(terms.ids[at]!);
    for (const name of Object.keys(together) as (keyof typeof together)[])
      together[name] += terms.figures[name][at]!;
    lines.push(line);
    sum.terms++;
    sum.clicks += line.clicks;
    sum.spend += line.spend;
    sum.orders += line.orders;
    sum.sales += line.sales;
  });
  const { objects, runs, pairs, window } = ground;
  const phrase = normalise(words);
  const targetClicks = ground.open.data.frames.get('')!.targets.clicks;
  const inside = (adGroup: number) => sku === null || objects.adGroups[adGroup]!.sku === sku;
  const claims = phraseClaims(ground, new Set([phrase]), inside, targetClicks, days).get(phrase)!;
  const adGroupOf = new Map(objects.targets.map(({ id, adGroup }) => [id, adGroup]));
  const spendIn = new Map<number, number>();
  for (let row = 0; row < pairs.target.length; row++) {
    if (!blocked.has(pairs.term[row]!)) continue;
    const { adGroup } = objects.targets[pairs.target[row]!]!;
    if (inside(adGroup)) spendIn.set(adGroup, (spendIn.get(adGroup) ?? 0) + window.spend[row]!);
  }
  return {
    words,
    ...sum,
    belief: beliefOf(together, sum, ground.table.valueWeight),
    sellers: lines
      .filter(({ orders }) => orders > 0)
      .sort((a, b) => b.sales - a.sales)
      .slice(0, mostListed),
    others: lines
      .filter(({ orders }) => orders === 0)
      .sort((a, b) => b.spend - a.spend)
      .slice(0, mostListed),
    twins: [...twins.values()].sort((a, b) => b.spend - a.spend).slice(0, mostTwins),
    keywords: objects.targets
      .filter(
        ({ kind, adGroup, expression }, target) =>
          kind === 'keyword' && runs.target(target) && inside(adGroup) && has(expression),
      )
      .slice(0, mostListed)
      .map(({ expression, matchType, adGroup }) => ({
        expression,
        matchType: matchType ?? '',
        adGroup: objects.adGroups[adGroup]!.name,
      })),
    places: [...spendIn]
      .filter(([adGroup]) => runs.adGroup(adGroup))
      .sort((a, b) => b[1] - a[1])
      .map(([adGroup, spend]) => {
        const { id, name, campaign } = objects.adGroups[adGroup]!;
        const { id: campaignId, name: campaignName } = objects.campaigns[campaign]!;
        return {
          adGroupId: id,
          adGroup: name,
          campaignId,
          campaign: campaignName,
          spend,
          claims: claims.filter(({ targetId }) => adGroupOf.get(targetId) === adGroup),
        };
      }),
  };
}
