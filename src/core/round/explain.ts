import { chanceOfNoOrder, revenue } from '../evidence/verdict.ts';
import { mean } from '../evidence/gamma.ts';
import { acos } from '../metrics/figures.ts';
import { count, decimal, money, percent, significant } from '../metrics/format.ts';
import type { FirstBid } from '../terms/lanes.ts';
import type { Finding } from './types.ts';

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
            `average term here would have sold with ${likely(1 - chanceOfNoOrder(working.prior.mu, evidence.clicks))}.`
        : `Stop paying for it here. ${capital(seen)}; its ACOS is ${over} likely to lie over your ${goal}, and ` +
            `the bid is near its floor.`;
    case 'bid': {
      const move = `from ${money(proposal.from)} to ${money(proposal.to)}`;
      if (working.quiet) {
        return (
          `Raise the bid ${move}. It is too quiet to know: ${count(sums.impressions)} impressions, far fewer ` +
          `than its siblings; they earn ${money(working.prior.mu * working.value)} a click.`
        );
      }
      const why = proposal.to < proposal.from ? `${over} likely over` : `${under} likely under`;
      const verb = proposal.to < proposal.from ? 'Cut' : 'Raise';
      const held =
        proposal.held.length > 0
          ? ` The evidence asks for ${money(proposal.wanted)}; held by ${proposal.held.join(' and ')}.`
          : '';
      return (
        `${verb} the bid ${move}. ${capital(seen)}, ${percent(acos(sums))} in the window; it is ${why} your ${goal}, and one ` +
        `click earns ${money(revenue({ gamma: working.gamma, value: working.value, cpc: working.cpc }))}.${held}`
      );
    }
    case 'wait':
      if (proposal.obstacle) return `${capital(seen)}. ${proposal.obstacle}`;
      return (
        `${capital(seen)}: too little to know. It is ${over} likely over your ${goal}` +
        (proposal.moreClicks === null
          ? ', and sits so near it that more clicks will hardly tell.'
          : `; about ${clicks(proposal.moreClicks)} more would tell.`)
      );
  }
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

/** The working of a finding, so that every number on it can be redone by hand. */
export function workingOf(finding: Finding): Step[] {
  const { working, n, y, proposal } = finding;
  const { prior, gamma, value, cpc, targetAcos, theta, modifier, rho, over } = working;
  const rpc = mean(gamma) * value;
  const steps: Step[] = [
    {
      name: 'Orders per click',
      formula: `(${decimal(prior.mu * prior.strength)} + ${decimal(y)}) ÷ (${decimal(prior.strength)} + ${decimal(n)})`,
      result: significant(mean(gamma)),
    },
    {
      name: 'Value per order',
      formula: `${orders(finding.seen.orders)} of its own, 3 at its parents’ value`,
      result: money(value),
    },
    {
      name: 'Revenue per click',
      formula: `${significant(mean(gamma))} × ${money(value)}`,
      result: money(rpc),
    },
  ];
  if (cpc !== null && over !== null) {
    steps.push({
      name: 'Chance over goal',
      formula: `P(orders per click < ${money(cpc)} ÷ (${percent(targetAcos)} × ${money(value)}))`,
      result: likely(over),
    });
  }
  if (proposal.kind === 'bid') {
    const earns = working.quiet ? prior.mu * value : rpc;
    steps.push({
      name: 'Bid',
      formula: `θ ${significant(theta)} × ${money(earns)} ÷ modifiers ${significant(modifier)}`,
      result: money(proposal.wanted),
    });
  }
  if (proposal.kind === 'harvest') {
    const formulas: Record<FirstBid, string> = {
      evidence: `${percent(targetAcos)} × ${money(rpc)} ÷ (${significant(rho)} paid per bid × modifiers ${significant(modifier)})`,
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
  if (proposal.kind === 'negative') {
    steps.push({
      name: 'Clicks for an order',
      formula: `2.3 ÷ ${significant(prior.mu)}, it had ${count(finding.seen.clicks)}`,
      result: decimal(2.3 / prior.mu),
    });
  }
  return steps;
}
