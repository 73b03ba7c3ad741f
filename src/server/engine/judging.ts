import { LRUCache } from 'lru-cache';
import type { MethodsAnswer, WhatIfAnswer } from '../../answers/goals.ts';
import { Comparison } from '../../core/round/compare.ts';
import { WhatIf, type Outlook } from '../../core/round/what-if.ts';
import { narrowed, type Narrowing } from '../../core/routines/narrow.ts';
import type { GoalRow } from '../goals/queries.ts';
import type { Model } from '../../core/effect/model.ts';
import { overlaps, type Substitution } from '../../core/effect/substitution.ts';
import { gradeTargets, heldOutDays, learnWords } from '../../core/evidence/learn.ts';
import { learnValueWeight } from '../../core/evidence/value.ts';
import { AccountTable } from '../../core/explore/table.ts';
import type { FrameSums, Objects } from '../../core/account/store.ts';
import { addDays, windowEnding, type Day, type Window } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import type { Finding, JudgeInput, TargetsInput, TermsInput } from '../../core/round/types.ts';
import type { Database } from '../db/connection.ts';
import { goalsWithTheta, loadJudgeInput } from '../judging/input.ts';
import { judgedOf, type Judged } from '../judging/judged.ts';
import { steerThetas } from '../judging/steering.ts';
import type { LoadedAccount } from '../memory/load.ts';
import type { StructureFinding } from '../../core/structure/types.ts';
import { findStructure } from '../../core/structure/checks.ts';
import { seasonsOf } from '../facts/seasons.ts';
import { campaignsOf } from './campaigns.ts';
import type { Edition } from './edition.ts';
import { habitsOf } from './kits.ts';

/** What was learned from the account in memory. */
export interface Learned extends Pick<Model, 'drift' | 'valueWeight' | 'check' | 'words'> {
  /** How far targets of one product answer the same terms. */
  overlap: Pick<Substitution, 'overlap' | 'products'>;
  effects: [word: string, beta: number][];
}

/** Where accounts are in memory as their figures stand; null while one has none. */
interface Accounts {
  load: (
    edition: Pick<Edition, 'accountId' | 'figures'>,
    withTerms?: boolean,
  ) => Promise<LoadedAccount | null>;
}

/** What is found about how campaigns are built, as the account stands. `taken`: names, in lower case. */
export async function structureBy(
  sql: Database,
  accountId: number,
  objects: Objects,
  input: TargetsInput,
  { minimumBudget, taken }: { minimumBudget: Micros; taken: readonly string[] },
): Promise<StructureFinding[]> {
  const { today } = input;
  return findStructure({
    today,
    days: input.settledDays,
    campaigns: await campaignsOf(sql, accountId, objects, input),
    taken: new Set(taken),
    minimumBudget,
    codes: habitsOf(objects),
    soldOut: new Set(objects.products.flatMap(({ sku, stock }) => (stock === 0 ? [sku] : []))),
    seasons: await seasonsOf(sql, accountId, today, null),
  });
}

/** Accounts and windows whose goals are tried at once. */
const mostInputs = 2;

const noTerms = (): TermsInput => ({ terms: [], quietTerms: new Map() });

/** An account at the end of a stretch of days. */
interface LearningGround {
  table: AccountTable;
  frame: FrameSums;
  evidence: Awaited<ReturnType<LoadedAccount['evidenceFor']>>;
}

/** The account before the days that are held out, and with them; null while there are too few. */
async function heldOutGrounds(
  account: LoadedAccount,
  { goals, model }: Pick<Edition, 'goals' | 'model'>,
): Promise<Record<'before' | 'now', LearningGround> | null> {
  const { today, objects, settledTo: to } = account;
  if (!to) return null;
  await account.needPairs();
  const at = async (end: Day): Promise<LearningGround> => {
    const window = windowEnding(end, heldOutDays);
    const frame = await account.frame(window, 'pairs');
    const evidence = await account.evidenceFor(window, 'pairs');
    const table = new AccountTable({
      today,
      objects,
      pairs: account.pairs,
      goals,
      frames: new Map([['', frame]]),
      evidence,
      model: { ...model, drift: 0, words: new Map() },
    });
    return { table, frame, evidence };
  };
  return { before: await at(addDays(to, -heldOutDays)), now: await at(to) };
}

function wordsTold(
  { pairs }: LoadedAccount,
  { before, now }: Record<'before' | 'now', LearningGround>,
  itemCode: string,
): ReturnType<typeof learnWords> {
  const isItem = new RegExp(itemCode, 'iu');
  return learnWords(
    before.table,
    before.evidence.pairs!,
    now.frame,
    now.table,
    now.evidence.pairs!,
    pairs!,
    (text) => isItem.test(text),
  );
}

/** What words of terms tell, learned of an account as it stands, or stood; empty where they tell nothing. */
export async function wordsOfAccount(
  account: LoadedAccount,
  edition: Pick<Edition, 'goals' | 'model'>,
  itemCode: string,
): Promise<Map<string, number>> {
  const grounds = await heldOutGrounds(account, edition);
  return grounds ? wordsTold(account, grounds, itemCode).effects : new Map();
}

/** Judges accounts in memory, and learns from them. */
export class JudgingEngine {
  private readonly judged = new Map<string, Finding[]>();
  /** What goals are tried on; what is made of it goes with it. */
  private readonly inputs = new LRUCache<string, Promise<JudgeInput | null>>({ max: mostInputs });
  private readonly whatIfs = new WeakMap<JudgeInput, { whatIf: WhatIf; kept: Outlook }>();
  private readonly comparisons = new WeakMap<JudgeInput, Comparison>();

  constructor(
    private readonly sql: Database,
    private readonly accounts: Accounts,
  ) {}

  /**
   * What the account teaches about itself: the model as of before the last settled days, held against those days; and
   * what words tell. Null while there are too few days.
   */
  async learn(edition: Edition, itemCode: string): Promise<Learned | null> {
    const account = await this.accounts.load(edition);
    const grounds = account && (await heldOutGrounds(account, edition));
    if (!grounds) return null;
    const { before, now } = grounds;
    const after = await account.withoutBlocked(now.frame, windowEnding(account.settledTo!, heldOutDays));
    const { about, effects } = wordsTold(account, grounds, itemCode);
    const { seen } = now.evidence.targets;
    return {
      ...gradeTargets(before.table, before.evidence.targets, after),
      valueWeight: learnValueWeight(
        account.objects.targets.map(({ adGroup }, row) => ({
          group: adGroup,
          orders: seen.orders[row]!,
          sales: seen.sales[row]!,
        })),
      ),
      words: about && {
        used: about.used,
        score: about.score,
        plainScore: about.plainScore,
        count: about.count,
      },
      effects: [...effects],
      overlap: overlaps(account.objects, account.pairs!, now.evidence.pairs!.seen.clicks),
    };
  }

  /**
   * Findings of an account for one window; null while it has no settled figures there. Their workings are kept under
   * `name` until they are asked for. `by`: within a routine's own limits.
   */
  async judge(
    name: string,
    accountId: number,
    figures: string,
    window: Window,
    by: Narrowing | null = null,
  ): Promise<Judged | null> {
    const start = performance.now();
    const withTerms = by?.terms ?? true;
    const account = await this.accounts.load({ accountId, figures }, withTerms);
    const loaded = account && (await loadJudgeInput(this.sql, accountId, window, withTerms, account));
    if (!loaded) return null;
    const input = by ? narrowed(loaded.input, by) : loaded.input;
    const { judged, findings } = judgedOf(
      { ...loaded, input, terms: loaded.terms ?? noTerms() },
      performance.now() - start,
    );
    this.judged.set(name, findings);
    return judged;
  }

  /** What is found about how campaigns are built, as JSON; null while there are no settled figures. `taken`: names, in lower case. */
  async structure(
    edition: Edition,
    window: Window,
    about: { minimumBudget: Micros; taken: readonly string[] },
  ): Promise<string | null> {
    const input = await this.grounds(edition, window, false);
    const account = input && (await this.accounts.load(edition));
    if (!account) return null;
    return JSON.stringify(await structureBy(this.sql, edition.accountId, account.objects, input, about));
  }

  /** The findings that were judged under a name, with their workings, as JSON; they are kept no longer. Null: no such name. */
  workings(name: string): string[] | null {
    const findings = this.judged.get(name);
    this.judged.delete(name);
    return findings?.map((finding) => JSON.stringify(finding)) ?? null;
  }

  /** What the account is judged on for a window, kept beside its figures: goals may be dragged over it. */
  async grounds(edition: Edition, window: Window, withTerms: boolean): Promise<JudgeInput | null> {
    const key = [edition.accountId, edition.version, window.from, window.to, withTerms].join('|');
    let pending = this.inputs.get(key);
    if (!pending) {
      pending = this.readGrounds(edition, window, withTerms);
      this.inputs.set(key, pending);
      pending.catch(() => this.inputs.delete(key));
    }
    return pending;
  }

  private async readGrounds(
    edition: Edition,
    window: Window,
    withTerms: boolean,
  ): Promise<JudgeInput | null> {
    const account = await this.accounts.load(edition, withTerms);
    const loaded = account && (await loadJudgeInput(this.sql, edition.accountId, window, withTerms, account));
    return loaded && { ...loaded.input, ...(loaded.terms ?? noTerms()) };
  }

  /** The account under its goals, and with one of them moved; null while there are no settled figures. */
  async whatIf(edition: Edition, window: Window, moved: GoalRow): Promise<WhatIfAnswer | null> {
    const start = performance.now();
    const input = await this.grounds(edition, window, true);
    if (!input) return null;
    let known = this.whatIfs.get(input);
    if (!known) {
      const whatIf = new WhatIf(input);
      this.whatIfs.set(input, (known = { whatIf, kept: whatIf.at(input.goals) }));
    }
    const goals = await goalsWithTheta(this.sql, edition.accountId, input, { moved });
    return {
      kept: known.kept,
      moved: known.whatIf.at(goals),
      milliseconds: performance.now() - start,
    };
  }

  /** A page of what all methods propose for all targets, as JSON; null while there are no settled figures. */
  async methods(
    edition: Edition,
    window: Window,
    { offset, limit, sort, text }: { offset: number; limit: number; sort: 'between' | 'spend'; text: string },
  ): Promise<string | null> {
    const start = performance.now();
    const input = await this.grounds(edition, window, false);
    if (!input) return null;
    let comparison = this.comparisons.get(input);
    if (!comparison) this.comparisons.set(input, (comparison = new Comparison(input)));
    const compared = comparison;
    const wanted = text.toLowerCase();
    const found = compared.targets.filter(
      ({ expression, adGroup }) =>
        expression.toLowerCase().includes(wanted) || adGroup.toLowerCase().includes(wanted),
    );
    if (sort === 'spend') found.sort((a, b) => b.spend - a.spend);
    return JSON.stringify({
      totals: compared.totals,
      count: found.length,
      rows: found.slice(offset, offset + limit).map((one) => compared.row(one)),
      milliseconds: performance.now() - start,
    } satisfies MethodsAnswer);
  }

  /** A round of steering (domain, section 6.3). */
  async steer(accountId: number, figures: string): Promise<void> {
    const account = await this.accounts.load({ accountId, figures });
    if (account) await steerThetas(this.sql, accountId, account);
  }
}
