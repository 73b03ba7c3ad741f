import { expect, test } from 'vitest';
import cases from '../../tests/fixtures/matching-cases.json' with { type: 'json' };
import { catches, type MatchType } from './matching.ts';

test.each(cases as [MatchType, string, string, boolean][])(
  '%s “%s” and “%s”: %s',
  (type, keyword, query, expected) => {
    expect(catches(type, keyword, query)).toBe(expected);
  },
);
