import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { sentenceOf } from './explain.ts';
import { bidRows, isGroupRow } from './group-bids.ts';
import { Comparison } from './compare.ts';
import { judgeTargets } from './judge.ts';
import { linesOf } from './lines.ts';
import { queueRow } from './queue.ts';
import { account, target } from './small-account.fixture.ts';
import type { Finding, TargetsInput } from './types.ts';
import { WhatIf } from './what-if.ts';

/** An ad group of three targets that are bid on together at 0.60, one that has its own bid, one that is paused. */
function input(defaultBid: number | null = micros(0.6)): TargetsInput {
  const base = account();
  const adGroups = new Map(base.adGroups);
  adGroups.set('2', { ...adGroups.get('2')!, defaultBid });
  const none = { bid: null };
  return {
    ...base,
    adGroups,
    targets: [
      target('61', '2', 'broad', 'airlock lids', 60, 1, none),
      target('62', '2', 'broad', 'jar lids', 50, 0, none),
      target('63', '2', 'broad', 'crock lids', 40, 1, none),
      target('64', '2', 'broad', 'glass lids', 70, 9, { bid: micros(0.5) }),
      target('65', '2', 'broad', 'old lids', 90, 0, { bid: null, enabled: false }),
    ],
  };
}
const found = (of: TargetsInput): Finding[] => judgeTargets(of, 100).findings;

describe('where a marketplace has only an ad group’s bid', () => {
  test('one row stands for its targets, with their sums and its days once', () => {
    const rows = bidRows(input());
    expect(rows.map(({ targetId }) => targetId)).toEqual(['64', 'ad_group:2']);
    const group = rows.find(isGroupRow)!;
    expect(group).toMatchObject({
      members: ['61', '62', '63'],
      bid: micros(0.6),
      clicks: 150,
      orders: 2,
      n: 150,
      y: 2,
      present: { days: 30, clicks: 150 },
    });
  });

  test('the proposal is for that bid, the line changes the ad group’s, and takes hold of all of them', () => {
    const finding = found(input()).find(({ key }) => key === 'ad_group:2:bid')!;
    expect(finding).toMatchObject({ targetId: '', targetKind: 'ad_group', adGroupId: '2', verdict: 'over' });
    expect(finding.proposal).toMatchObject({ kind: 'bid', from: micros(0.6) });
    const row = queueRow(finding);
    expect(row.members).toBe(3);
    expect(row.claims.map(({ targetId }) => targetId)).toEqual(['61', '62', '63']);
    const reason = sentenceOf(finding, { adGroup: (id) => id });
    expect(reason).toContain('Cut the bid from 0.60');
    const [line] = linesOf(finding, {}, reason, { campaignOf: () => 'c2', campaignsOf: () => [] });
    expect(line).toMatchObject({
      entity: 'ad_group',
      objectId: '2',
      field: 'default_bid',
      oldValue: String(micros(0.6)),
      effect: { claims: row.claims },
    });
  });

  test('it cools down like any other, and without a default bid nothing is proposed', () => {
    const base = input();
    base.adGroups.get('2')!.defaultBidChangedOn = base.today;
    expect(found(base).find(({ key }) => key === 'ad_group:2:bid')?.proposal).toMatchObject({
      kind: 'wait',
      held: { by: 'cooldown' },
    });
    expect(found(input(null)).map(({ key }) => key)).not.toContain('ad_group:2:bid');
  });

  test('what if and the comparison of methods know it too', () => {
    const of = input();
    const judged = found(of).filter(({ proposal }) => proposal.kind === 'bid');
    const outlook = new WhatIf({ ...of, terms: [], quietTerms: new Map() }).at(of.goals);
    expect(outlook.cuts + outlook.raises).toBe(judged.length);
    const comparison = new Comparison(of);
    const rows = comparison.targets.map((one) => comparison.row(one));
    expect(rows.map(({ targetId, kind }) => [targetId, kind])).toContainEqual(['ad_group:2', 'ad_group']);
  });
});
