import { expect, test } from 'vitest';
import { exampleAccount } from '../../../tests/support/account.ts';
import { phraseClaims } from './phrase-claims.ts';

test('a phrase claims the clicks of every term that holds it, target by target, of its product only', () => {
  const account = exampleAccount(
    [
      { name: 'Lids broad', sku: 'LID', targets: ['broad lids', 'broad jar lids'] },
      { name: 'Jars broad', sku: 'JAR', targets: ['broad jars'] },
    ],
    [
      { by: 'Lids broad: lids', term: 'canning lids', clicks: 28 },
      { by: 'Lids broad: lids', term: 'canning jar lids', clicks: 12 },
      { by: 'Lids broad: lids', term: 'wide lids', clicks: 40 },
      { by: 'Lids broad: jar lids', term: 'canning jar lids', clicks: 20 },
      { by: 'Jars broad: jars', term: 'canning jars', clicks: 99 },
      // Within a word it is another word.
      { by: 'Lids broad: lids', term: 'canninglids', clicks: 20 },
    ],
  );
  const claims = phraseClaims(
    account,
    new Set(['canning', 'canning jar']),
    (adGroup) => account.objects.adGroups[adGroup]!.sku === 'LID',
    account.targets.clicks,
    28,
  );
  // 28 + 12 of 100 clicks of the first target and all 20 of the second, a week a fourth of that.
  expect(claims.get('canning')).toEqual([
    { targetId: '1', clicks: 10, part: 0.4 },
    { targetId: '2', clicks: 5, part: 1 },
  ]);
  expect(claims.get('canning jar')).toEqual([
    { targetId: '1', clicks: 3, part: 0.12 },
    { targetId: '2', clicks: 5, part: 1 },
  ]);
});
