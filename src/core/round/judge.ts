import { paidPerBidByCampaign, usualPaidPerBid } from '../evidence/present-cpc.ts';
import type { Evidence, LaneCounts } from '../account/rows.ts';
import { normalise } from '../text/normalise.ts';
import type { Lane, LaneAdGroup } from '../lanes/lanes.ts';
import { proposeLanes } from '../lanes/propose.ts';
import { acosInterval, clicksToKnow } from '../evidence/verdict.ts';
import { withSpreads } from '../effect/weekly.ts';
import { Pool } from '../evidence/pooling.ts';
import { bidGround, judgeTarget, thetasOfBudgets, goalsIn } from './targets.ts';
import { testsOf } from './testing.ts';
import { Surroundings } from './surroundings.ts';
import { isOpen, judgeTerm, type TermGround, type TermInAdGroup } from './terms.ts';
import { addSums } from '../metrics/figures.ts';
import type { Micros } from '../metrics/money.ts';
import { belowHarvest, type Below, type Wants } from './wants.ts';
import type { Finding, JudgeInput, TargetsInput } from './types.ts';

/** What judging found: the findings worth most of each queue, and how many there are. */
export interface Judgement {
  findings: Finding[];
  counts: Record<Finding['queue'], number>;
}

/** Those worth most stand first; rows that wait are worth nothing yet and stand last, by what they have cost. */
const byWorth = (a: Finding, b: Finding): number =>
  b.worth - a.worth || b.sums.spend - a.sums.spend || (a.key < b.key ? -1 : 1);

/** Keeps the findings worth most: of a large account most are forgotten as soon as they are made. */
class Best {
  private count = 0;
  private kept: Finding[] = [];
  private last: Finding | null = null;

  constructor(
    private readonly most: number,
    private readonly widening = 1,
  ) {}

  /** Whether a finding of this worth, and of this spend among equals, may be kept. */
  readonly wants: Wants = (worth, spend) =>
    this.last === null ||
    worth > this.last.worth ||
    (worth === this.last.worth && spend >= this.last.sums.spend);

  add(finding: Finding | Below): void {
    this.count++;
    if (typeof finding === 'symbol') return;
    if (this.last && byWorth(finding, this.last) > 0) return;
    this.kept.push(finding);
    if (this.kept.length < 2 * this.most) return;
    this.kept = this.sorted();
    this.last = this.kept[this.kept.length - 1] ?? null;
  }

  result(): JudgedQueue {
    return { findings: this.sorted().map((finding) => complete(finding, this.widening)), count: this.count };
  }

  private sorted(): Finding[] {
    return this.kept.sort(byWorth).slice(0, this.most);
  }
}

/** The findings of one queue worth most, and how many there are. */
export interface JudgedQueue {
  findings: Finding[];
  count: number;
}

/** Judges an account for one window: findings with those worth most first, at most `most` of each queue. */
export const judgeAccount = (input: JudgeInput, most: number): Judgement =>
  joinQueues(judgeTargets(input, most), judgeTerms(input, most));

export const joinQueues = (targets: JudgedQueue, terms: JudgedQueue): Judgement => ({
  findings: [...targets.findings, ...terms.findings].sort(byWorth),
  counts: { terms: terms.count, targets: targets.count },
});

const paidPerBidOf = (input: TargetsInput): ((campaignId: string) => number) => {
  const rho = paidPerBidByCampaign(input.targets, input.adGroups);
  return (campaignId) => rho.get(campaignId) ?? usualPaidPerBid;
};

/** Adds what only a shown finding needs: quantiles, and how many more clicks would tell. */
function complete(finding: Finding, widening: number): Finding {
  const { working, proposal, n, y } = finding;
  const belief = { gamma: working.gamma, value: working.value, cpc: working.cpc };
  return {
    ...finding,
    working: { ...working, interval: acosInterval(belief) },
    effect: working.forecast
      ? withSpreads(
          finding.effect,
          { ...working.forecast, gamma: belief.gamma, value: belief.value, margin: working.margin },
          widening,
        )
      : finding.effect,
    proposal:
      proposal.kind === 'wait' && proposal.obstacle === null && !proposal.held
        ? { ...proposal, moreClicks: clicksToKnow(working.prior, n, y, belief, working.targetAcos) }
        : proposal,
  };
}

/** Judges the bids; intervals are worked out for the findings worth most only. */
export function judgeTargets(input: TargetsInput, most: number): JudgedQueue {
  const goals = goalsIn(input);
  const best = new Best(most, input.widening);
  const ground = bidGround(input);
  const thetas = thetasOfBudgets(ground, goals);
  const tests = testsOf(ground, goals, thetas);
  // What is tried is worth little by itself: its share, not its worth, says how much of it is shown.
  const tried: Finding[] = [];
  for (const row of ground.rows) {
    const test = tests.get(row.targetId);
    const finding = judgeTarget(row, ground, goals, thetas, test, test ? () => true : best.wants);
    if (finding === null) continue;
    if (test && typeof finding !== 'symbol') tried.push(complete(finding, input.widening ?? 1));
    else best.add(finding);
  }
  const { findings, count } = best.result();
  return { findings: [...findings, ...tried], count: count + tried.length };
}

/** What stands around the terms: it can be laid out before they come. */
export function surroundingsOf(input: TargetsInput): Surroundings {
  const adGroups = laneAdGroups(input);
  return new Surroundings(input, input.lanes ?? proposeLanes(adGroups.values()), adGroups);
}

/** What terms are judged on, with the beliefs of their siblings. */
export function termGround(input: JudgeInput, around: Surroundings = surroundingsOf(input)): TermGround {
  const pool = new Pool(input.products, input, input.mixes);
  for (const { adGroup, evidence } of input.terms) pool.add(adGroup, evidence);
  for (const [adGroupId, quiet] of input.quietTerms) {
    const adGroup = input.adGroups.get(adGroupId);
    if (adGroup) pool.addQuiet(adGroup, quiet);
  }
  return { input, pool, around, rhoOf: paidPerBidOf(input) };
}

/**
 * Terms that are judged each by itself, and those that sold in several ad groups whose lanes meet: together they may be
 * one harvest.
 */
export function gatherTerms({ input, around }: TermGround): {
  alone: TermInAdGroup[];
  meeting: TermInAdGroup[][];
} {
  const alone: TermInAdGroup[] = [];
  const sellers = new Map<string, TermInAdGroup[]>();
  for (const row of input.terms) {
    const sells = row.evidence.seenOrders > 0 && isOpen(row, around);
    const destination = sells ? around.destinationOf(row) : null;
    if (destination === null) {
      alone.push(row);
      continue;
    }
    const keyword = `${destination}\t${normalise(row.term)}`;
    const known = sellers.get(keyword);
    if (known) known.push(row);
    else sellers.set(keyword, [row]);
  }
  return { alone, meeting: [...sellers.values()] };
}

/** Judges the search terms; intervals and clicks to know are worked out for the findings worth most only. */
export function judgeTerms(
  input: JudgeInput,
  most: number,
  around: Surroundings = surroundingsOf(input),
): JudgedQueue {
  const goals = goalsIn(input);
  const best = new Best(most, input.widening);
  const ground = termGround(input, around);
  const judge = (row: TermInAdGroup) => judgeTerm(row, ground, goals, best.wants);
  const { alone, meeting } = gatherTerms(ground);
  for (const row of alone) {
    const finding = judge(row);
    if (finding) best.add(finding);
  }
  for (const sources of meeting) {
    const [first, ...others] = sources as [TermInAdGroup, ...TermInAdGroup[]];
    const joined = others.length > 0 ? () => judge(joinRows(sources)) : null;
    for (const finding of judgeSources([first, ...others], judge, joined)) best.add(finding);
  }
  return best.result();
}

/** What is found about a source, as a finding or as what is to be done. */
type Judged = { worth: Micros } & (Pick<Finding, 'proposal'> | { kind: Finding['proposal']['kind'] });

const isHarvest = (found: Judged | Below | null): boolean =>
  typeof found === 'symbol'
    ? found === belowHarvest
    : found !== null && ('kind' in found ? found.kind : found.proposal.kind) === 'harvest';

/** One term out of ad groups whose lanes meet: one harvest with all their evidence, or what each says for itself. */
export function judgeSources<Source, T extends Judged>(
  sources: readonly Source[],
  judge: (source: Source) => T | Below | null,
  judgeJoined: (() => T | Below | null) | null,
): (T | Below)[] {
  if (judgeJoined) {
    const joined = judgeJoined();
    if (joined !== null && isHarvest(joined)) return [joined];
  }
  const findings = sources.map(judge).filter((finding) => finding !== null);
  // Together they may say something else than each for itself; then the one worth most stands for all.
  const harvests = findings.filter(isHarvest);
  const made = harvests.filter((finding) => typeof finding !== 'symbol').sort((a, b) => b.worth - a.worth);
  const others = findings.filter((finding) => !isHarvest(finding));
  return [...others, ...harvests.slice(0, 1).map((first) => made[0] ?? first)];
}

/** The evidence of several ad groups together, where most clicks were. */
export function joinRows(sources: readonly TermInAdGroup[]): TermInAdGroup {
  const rows = [...sources].sort(
    (a, b) =>
      b.evidence.clicks - a.evidence.clicks || (isOlder(a.adGroup.adGroupId, b.adGroup.adGroupId) ? -1 : 1),
  );
  const [first, ...others] = rows as [TermInAdGroup, ...TermInAdGroup[]];
  return {
    term: first.term,
    adGroup: first.adGroup,
    target: first.target,
    evidence: others.reduce((sum, { evidence }) => addEvidence(sum, evidence), first.evidence),
    caught: rows.flatMap(({ caught }) => caught),
    alsoFrom: others.map(({ adGroup }) => adGroup.adGroupId),
    laneCounts: rows.reduce<LaneCounts | null>((sum, row) => addCounts(sum, row.laneCounts), null),
  };
}

/** The lanes of the account: as saved, or else as its products, names and targets tell (domain, section 7.1). */
export const lanesOf = (input: Pick<JudgeInput, 'adGroups' | 'targets' | 'lanes'>): readonly Lane[] =>
  input.lanes ?? proposeLanes(laneAdGroups(input).values());

/** The account's ad groups as lanes see them. */
export function laneAdGroups(input: Pick<JudgeInput, 'adGroups' | 'targets'>): Map<string, LaneAdGroup> {
  const adGroups = new Map<string, LaneAdGroup & { targetKinds: Set<string>; matchTypes: Set<string> }>();
  for (const adGroup of input.adGroups.values()) {
    adGroups.set(adGroup.adGroupId, { ...adGroup, targetKinds: new Set(), matchTypes: new Set() });
  }
  for (const target of input.targets) {
    const adGroup = adGroups.get(target.adGroupId);
    adGroup?.targetKinds.add(target.kind);
    if (target.matchType) adGroup?.matchTypes.add(target.matchType);
  }
  return adGroups;
}

export const addCounts = (a: LaneCounts | null, b: LaneCounts | null): LaneCounts | null =>
  a && b
    ? {
        keywordClicks: a.keywordClicks + b.keywordClicks,
        keywordOrders: a.keywordOrders + b.keywordOrders,
        itemClicks: a.itemClicks + b.itemClicks,
        itemOrders: a.itemOrders + b.itemOrders,
      }
    : (a ?? b);

export const addEvidence = (a: Evidence, b: Evidence): Evidence => ({
  ...addSums(a, b),
  n: a.n + b.n,
  y: a.y + b.y,
  seenClicks: a.seenClicks + b.seenClicks,
  seenOrders: a.seenOrders + b.seenOrders,
  seenSpend: a.seenSpend + b.seenSpend,
  seenSales: a.seenSales + b.seenSales,
  highestCpc: Math.max(a.highestCpc, b.highestCpc),
});

/** Ids are numbers as text: the shorter one is the smaller. */
export const isOlder = (a: string, b: string): boolean =>
  a.length === b.length ? a < b : a.length < b.length;
