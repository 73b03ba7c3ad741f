import { describe, expect, test } from 'vitest';
import { exampleAccount } from '../../../tests/support/account.ts';
import { blockedRows } from './blocked.ts';
import { sumTerms } from './sums.ts';

const caught = [
  { by: 'Lids broad: airlock lids', term: 'canning lids', clicks: 40 },
  { by: 'Lids broad: airlock lids', term: 'airlock lids', clicks: 10, orders: 2 },
  { by: 'Jars broad: jars', term: 'canning lids', clicks: 5 },
];
const account = (negatives: string[], campaignNegatives: string[] = []) =>
  exampleAccount(
    [
      { name: 'Lids broad', sku: 'LID', targets: ['broad airlock lids'], negatives, campaignNegatives },
      { name: 'Jars broad', sku: 'JAR', targets: ['broad jars'] },
    ],
    caught,
  );

describe('what a negative keeps away by now', () => {
  test.each([
    ['nothing without a negative', account([]), [false, false, false]],
    ['where it stands, and only there', account(['phrase canning']), [true, false, false]],
    ['of a whole campaign', account([], ['phrase canning']), [true, false, false]],
    ['an exact one its own term', account(['exact airlock lids']), [false, true, false]],
  ])('%s', (_, ground, expected) => {
    const isBlocked = blockedRows(ground, ground.matcher);
    expect(caught.map((_, row) => isBlocked(row))).toEqual(expected);
  });

  test('is left out of the sums of its words, and counted', () => {
    const ground = account(['phrase canning']);
    const isOut = blockedRows(ground, ground.matcher);
    const terms = sumTerms({ ...ground, evidence: ground.evidence! }, () => true, /^QY\d+$/iu, isOut);
    expect(terms.out).toBe(1);
    const at = terms.texts.indexOf('canning lids');
    expect(terms.figures.clicks[at]).toBe(5);
  });
});
