import { elasticityOver } from '../effect/response.ts';
import { chanceOfNoOrder, clicksForAnOrder, revenue } from '../evidence/verdict.ts';
import { mean } from '../evidence/gamma.ts';
import { acos } from '../metrics/figures.ts';
import { count, decimal, money, percent, significant } from '../metrics/format.ts';
import type { FirstBid } from '../lanes/lanes.ts';
import { remembered, testDays, testWeeks, worthOfTest, type TestPlan } from '../testing/plan.ts';
import type { GuardName } from '../bids/guards.ts';
import type { Method } from '../bids/methods.ts';
import type { Finding, HeldBid, Working } from './types.ts';

/** Names that a finding only points at. */
export interface Names {
  adGroup: (id: string) => string;
}

const orders = (n: number): string => (n === 0 ? 'no order' : n === 1 ? '1 order' : `${count(n)} orders`);
const clicks = (n: number): string => (n === 1 ? '1 click' : `${count(n)} clicks`);

/** What is proposed and why, with its numbers: the first thing the why panel says, and the reason on the sheet. */
export function sentenceOf(finding: Finding, names: Names): string {
  const { proposal, sums, seen: evidence, working } = finding;
  const goal = percent(working.targetAcos);
  const longer = evidence.clicks > sums.clicks ? ' this season' : '';
  const seen = `${orders(evidence.orders)} from ${clicks(evidence.clicks)}${longer}`;
  const under = likely(1 - (working.over ?? 0.5));
  const over = likely(working.over ?? 0.5);
  switch (proposal.kind) {
    case 'harvest':
      return (
        `Give it a ${proposal.targetKind === 'item' ? 'target' : 'keyword'} of its own in ` +
        `${names.adGroup(proposal.adGroupId)} at ${money(proposal.bid)}. ${capital(seen)}; its ACOS is ${under} ` +
        `likely to lie under your ${goal}.` +
        (proposal.alsoFrom.length > 0
          ? ` Summed over ${proposal.alsoFrom.length + 1} ad groups that caught it.`
          : '') +
        (proposal.isolateIn.length > 0
          ? ` Blocked in ${proposal.isolateIn.length} research ad group${proposal.isolateIn.length === 1 ? '' : 's'}, so that it is served once.`
          : '')
      );
    case 'negative':
      return evidence.orders === 0
        ? `Stop paying for it here. ${capital(clicks(evidence.clicks))}${longer}, no order, ${money(evidence.spend)} spent; an ` +
            `average term here would have sold with ${likely(1 - chanceOfNoOrder(usualMean(working), evidence.clicks))}.`
        : `Stop paying for it here. ${capital(seen)}; its ACOS is ${over} likely to lie over your ${goal}, and ` +
            `the bid is near its floor.`;
    case 'bid': {
      const move = `from ${money(proposal.from)} to ${money(proposal.to)}`;
      if (working.test) return testSentence(working.test, seen);
      if (working.quiet) {
        return (
          `Raise the bid ${move}. It is too quiet to know: ${count(sums.impressions)} impressions, far fewer ` +
          `than its siblings; a click is expected to earn ${money(revenue({ gamma: working.gamma, value: working.value, cpc: working.cpc }))}.`
        );
      }
      const why = proposal.to < proposal.from ? `${over} likely over` : `${under} likely under`;
      const verb = proposal.to < proposal.from ? 'Cut' : 'Raise';
      const { formula, method } = working;
      const held =
        proposal.held.length > 0
          ? ` ${capital(methodWords[method ?? 'evidence'])} asks for ${money(proposal.wanted)}; held by ${proposal.held.map((name) => guardWords[name]).join(' and ')}.`
          : '';
      if (formula !== undefined) return `${verb} the bid ${move}. ${capital(formula)}.${held}`;
      return (
        `${verb} the bid ${move}. ${capital(seen)}, ${percent(acos(sums))} in the window; it is ${why} your ${goal}, and one ` +
        `click earns ${money(revenue({ gamma: working.gamma, value: working.value, cpc: working.cpc }))}.${held}`
      );
    }
    case 'wait':
      if (proposal.held) return heldSentence(finding, proposal.held, seen);
      if (proposal.obstacle) return `${capital(seen)}. ${proposal.obstacle}`;
      return (
        `${capital(seen)}: too little to know. It is ${over} likely over your ${goal}` +
        (proposal.moreClicks === null
          ? ', and sits so near it that more clicks will hardly tell.'
          : `; about ${clicks(proposal.moreClicks)} more would tell.`)
      );
  }
}

const methodWords: Record<Method, string> = {
  evidence: 'the evidence',
  strict: 'every target at its goal',
  bands: 'its band',
  rpc: 'its revenue per click',
};

const guardWords: Record<GuardName, string> = {
  'largest step up': 'the largest step up',
  'largest step down': 'the largest step down',
  floor: 'its floor',
  ceiling: 'its ceiling',
  'highest CPC': 'the highest CPC it has paid',
  budget: 'its campaign’s budget, which would run dry before the day is over',
  'minimum bid': 'the marketplace’s least bid',
  'maximum bid': 'the marketplace’s highest bid',
  cooldown: 'its cooldown: it was changed too short a while ago',
  test: 'its test: it is tried at this bid, to know',
};

/** What is tried, what it is expected to bring, and what knowing would be worth. */
function testSentence(test: TestPlan, seen: string): string {
  const { from, to, isRested, after, orders: expected, knowing, loss } = test;
  const state = isRested ? `It rests at ${money(from)}` : 'It is hardly shown';
  return (
    `Try it at ${money(to)} instead of ${money(from)} for ${testDays} days, to know. ${state}: ${seen}. About ` +
    `${decimal(after.clicks * testWeeks)} clicks for ${money(after.spend * testWeeks)} are expected, and ${decimal(expected)} orders; ` +
    `knowing is worth ${money(knowing)} a week for ${count(Math.round(remembered))} weeks, the test itself ${loss > 0 ? 'loses' : 'earns'} ${money(Math.abs(loss) * testWeeks)}.`
  );
}

/** What a guard holds back, and what a confirmation beyond it would do. */
function heldSentence({ working }: Finding, { from, wanted, by }: HeldBid, seen: string): string {
  const { gamma, value, cpc } = working;
  return (
    `Wants ${money(wanted)}, held at ${money(from)} by ${guardWords[by]}. ${capital(seen)}; one click earns ` +
    `${money(revenue({ gamma, value, cpc }))}.`
  );
}

/** A chance is never told as certain. */
const likely = (share: number): string =>
  share > 0.99 ? 'over 99 %' : share < 0.01 ? 'under 1 %' : percent(share);

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** One line of the working: what it is, the formula with values put in, what comes out. */
export interface Step {
  name: string;
  formula: string;
  result: string;
}

/** What an average row of the ad group sells a click, before its own words are heard. */
const usualMean = ({ levels, prior }: Working): number => levels[levels.length - 1]?.mu ?? prior.mu;

/** Where the prior comes from: each level's mean shrunk to the one above, how alike its rows are, and the words. */
function priorSteps({ working }: Finding): Step[] {
  const { levels, words, prior } = working;
  const own = levels[levels.length - 1];
  const above = levels[levels.length - 2];
  const steps: Step[] = [];
  if (own && above) {
    steps.push({
      name: `Prior of the ${own.level}`,
      formula:
        `(${decimal(own.weight)} × ${significant(above.mu)} of the ${above.level} + ${decimal(own.sold)}) ÷ ` +
        `(${decimal(own.weight)} + ${decimal(own.telling)}); its rows are as alike as ${decimal(prior.strength)} clicks`,
      result: significant(own.mu),
    });
  }
  if (words && words.length > 0) {
    steps.push({
      name: 'Words',
      formula: words.map(({ word, factor }) => `“${word}” × ${significant(factor)}`).join(', '),
      result: significant(prior.mu),
    });
  }
  return steps;
}

/** What a test costs and what knowing is worth. */
function testSteps(test: TestPlan): Step[] {
  const { ordinary, to, after, knowing, loss } = test;
  return [
    {
      name: 'Bid of the test',
      formula: `the one of those above ${money(ordinary)} that gains most, up to what it is worth in the best case`,
      result: money(to),
    },
    {
      name: 'Clicks of the test',
      formula: `${significant(after.clicks)} a week × ${testWeeks} weeks, as ${test.isRested ? 'its siblings get' : 'its own clicks let expect'}`,
      result: decimal(after.clicks * testWeeks),
    },
    {
      name: 'Knowing',
      formula: 'a week at the best bid after each outcome, by its chance, − a week at the best bid now',
      result: money(knowing),
    },
    {
      name: 'Worth of the test',
      formula: `${money(knowing)} ${loss > 0 ? '−' : '+'} ${money(Math.abs(loss))} ${loss > 0 ? 'lost' : 'earned'} in each of ${testWeeks} weeks ÷ ${decimal(remembered)} weeks in which the outcome counts`,
      result: money(worthOfTest(test)),
    },
  ];
}

/** The working of a finding, so that every number on it can be redone by hand. */
export function workingOf(finding: Finding): Step[] {
  const { working, n, y, proposal } = finding;
  const { prior, gamma, value, siblingValue, cpc, targetAcos, theta, modifier, over } = working;
  const rpc = mean(gamma) * value;
  const steps: Step[] = [
    ...priorSteps(finding),
    {
      name: 'Orders per click',
      formula: `(${decimal(prior.mu * prior.strength)} + ${decimal(y)}) ÷ (${decimal(prior.strength)} + ${decimal(n)})`,
      result: significant(mean(gamma)),
    },
    {
      name: 'Value per order',
      formula:
        `(${decimal(siblingValue.weight)} × ${money(siblingValue.mean)} of its siblings + ${money(finding.seen.sales)}) ` +
        `÷ (${decimal(siblingValue.weight)} + ${orders(finding.seen.orders)})`,
      result: money(value),
    },
    {
      name: 'Revenue per click',
      formula: `${significant(mean(gamma))} × ${money(value)}`,
      result: money(rpc),
    },
  ];
  if (working.mix) {
    steps.push({
      name: 'Goal of what it sells',
      formula: working.mix.map(({ sku, share }) => `${percent(share)} ${sku}`).join(', '),
      result: percent(targetAcos),
    });
  }
  if (cpc !== null && over !== null) {
    steps.push({
      name: 'Chance over goal',
      formula: `P(orders per click < ${money(cpc)} ÷ (${percent(targetAcos)} × ${money(value)}))`,
      result: likely(over),
    });
  }
  const held = proposal.kind === 'wait' ? proposal.held : undefined;
  if (working.test) steps.push(...testSteps(working.test));
  else if (proposal.kind === 'bid' || held) {
    steps.push({
      name: 'Bid',
      formula:
        working.formula ??
        `${working.objective === 'profit' ? 'margin' : 'θ'} ${significant(theta)} × ${money(rpc)} ÷ modifiers ${significant(modifier)}`,
      result: money(proposal.kind === 'bid' ? proposal.wanted : held!.wanted),
    });
  }
  if (working.budgetTheta !== undefined && (proposal.kind === 'bid' || held)) {
    steps.push({
      name: 'Budget',
      formula: `at θ ${significant(working.budgetTheta)} the budget of its campaign lasts the day: × ${money(rpc)} ÷ ${significant(modifier)}`,
      result: money((working.budgetTheta * rpc) / modifier),
    });
  }
  if (proposal.kind === 'harvest') {
    const formulas: Record<FirstBid, string> = {
      evidence: `θ ${significant(theta)} × ${money(rpc)} ÷ modifiers ${significant(modifier)}`,
      source_cpc: 'what a click of it has cost, as its lane says',
      fixed: 'as its lane says',
    };
    steps.push({ name: 'First bid', formula: formulas[proposal.firstBid], result: money(proposal.wanted) });
  }
  if (proposal.kind === 'bid' || proposal.kind === 'harvest') {
    const to = proposal.kind === 'bid' ? proposal.to : proposal.bid;
    if (proposal.held.length > 0)
      steps.push({ name: 'Held', formula: proposal.held.join(', '), result: money(to) });
  }
  if (working.forecast?.ratio && working.weekClicks > 0) {
    const { ratio } = working.forecast;
    const elasticity = elasticityOver(working.response, ratio);
    steps.push({
      name: 'Clicks a week',
      formula:
        `${significant(working.weekClicks)} × ${significant(ratio)}^${significant(elasticity)}, ` +
        `since a click costs ${significant(working.response.paid)} of the bid`,
      result: significant(working.weekClicks * ratio ** elasticity),
    });
  }
  if (held) steps.push({ name: 'Held', formula: held.by, result: money(held.from) });
  if (working.kappa !== undefined) {
    steps.push({
      name: 'Forecast',
      formula: 'expected orders × orders seen over expected of the account’s last 30 settled days',
      result: `× ${significant(working.kappa)}`,
    });
  }
  if (proposal.kind === 'negative') {
    steps.push({
      name: 'Clicks for an order',
      formula: `2.3 ÷ ${significant(usualMean(working))}, it had ${count(finding.seen.clicks)}`,
      result: decimal(clicksForAnOrder(usualMean(working))),
    });
  }
  return steps;
}
