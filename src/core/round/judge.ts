import { readLanes, type Lane, type LaneAdGroup } from '../terms/lanes.ts';
import { Goals } from './goals.ts';
import { Pool } from './pooling.ts';
import { judgeTarget, medianImpressions, paidPerBidByCampaign } from './targets.ts';
import { judgeTerm, Surroundings, type TermInAdGroup } from './terms.ts';
import type { AdGroupInfo, Finding, JudgeInput, TargetRow } from './types.ts';

/** All findings of an account for one window, those worth most first. */
export function judge(input: JudgeInput): Finding[] {
  const goals = new Goals(input.goals);
  const rho = paidPerBidByCampaign(input.targets, input.adGroups);
  const rhoOf = (campaignId: string) => rho.get(campaignId) ?? 0.7;
  const findings = [...judgeTargets(input, goals, rhoOf), ...judgeTerms(input, goals, rhoOf)];
  // Rows that wait are worth nothing yet: they stand last, by what they have cost.
  return findings.sort(
    (a, b) => b.worth - a.worth || b.sums.spend - a.sums.spend || (a.key < b.key ? -1 : 1),
  );
}

function judgeTargets(input: JudgeInput, goals: Goals, rhoOf: (campaignId: string) => number): Finding[] {
  const pool = new Pool(input.products);
  for (const row of input.targets) {
    const adGroup = input.adGroups.get(row.adGroupId);
    if (adGroup) pool.add(adGroup, row);
  }
  const medians = medianImpressions(input.targets);
  const findings: Finding[] = [];
  for (const row of input.targets) {
    const adGroup = input.adGroups.get(row.adGroupId);
    if (!adGroup) continue;
    const median = medians.get(row.adGroupId) ?? 0;
    const finding = judgeTarget(row, adGroup, input, pool, goals, rhoOf(adGroup.campaignId), median);
    if (finding) findings.push(finding);
  }
  return findings;
}

function judgeTerms(input: JudgeInput, goals: Goals, rhoOf: (campaignId: string) => number): Finding[] {
  const rows = termsByAdGroup(input);
  const pool = new Pool(input.products);
  for (const row of rows) pool.add(row.adGroup, row);
  const around = new Surroundings(input, lanesOf(input));
  const findings: Finding[] = [];
  for (const row of rows) {
    const finding = judgeTerm(row, input, pool, goals, around, rhoOf);
    if (finding) findings.push(finding);
  }
  return findings;
}

/** The lanes of the account, read from its products, names and targets (guide, section 7.1). */
export function lanesOf(input: Pick<JudgeInput, 'adGroups' | 'targets'>): Lane[] {
  const adGroups = new Map<string, LaneAdGroup & { targetKinds: Set<string>; matchTypes: Set<string> }>();
  for (const adGroup of input.adGroups.values()) {
    adGroups.set(adGroup.adGroupId, { ...adGroup, targetKinds: new Set(), matchTypes: new Set() });
  }
  for (const target of input.targets) {
    const adGroup = adGroups.get(target.adGroupId);
    adGroup?.targetKinds.add(target.kind);
    if (target.matchType) adGroup?.matchTypes.add(target.matchType);
  }
  return readLanes([...adGroups.values()]);
}

/** Terms summed over the targets of an ad group that caught them: that is where a negative would stand. */
export function termsByAdGroup(input: Pick<JudgeInput, 'adGroups' | 'targets' | 'terms'>): TermInAdGroup[] {
  const targets = new Map<string, { target: TargetRow; adGroup: AdGroupInfo }>();
  for (const target of input.targets) {
    const adGroup = input.adGroups.get(target.adGroupId);
    if (adGroup) targets.set(target.targetId, { target, adGroup });
  }
  const places = new Map<string, Map<string, TermInAdGroup>>();
  const rows: TermInAdGroup[] = [];
  for (const row of input.terms) {
    const caught = targets.get(row.targetId);
    if (!caught) continue;
    const { target, adGroup } = caught;
    let place = places.get(adGroup.adGroupId);
    if (!place) places.set(adGroup.adGroupId, (place = new Map()));
    const known = place.get(row.term);
    if (!known) {
      const first = { ...row, adGroup, target, targetClicks: row.clicks };
      place.set(row.term, first);
      rows.push(first);
      continue;
    }
    known.impressions += row.impressions;
    known.clicks += row.clicks;
    known.spend += row.spend;
    known.orders += row.orders;
    known.units += row.units;
    known.sales += row.sales;
    known.n += row.n;
    known.y += row.y;
    known.seenClicks += row.seenClicks;
    known.seenOrders += row.seenOrders;
    known.seenSpend += row.seenSpend;
    known.seenSales += row.seenSales;
    known.highestCpc = Math.max(known.highestCpc, row.highestCpc);
    if (row.clicks > known.targetClicks) {
      known.target = target;
      known.targetClicks = row.clicks;
    }
  }
  return rows;
}
