import { describe, expect, test } from 'vitest';
import type { SheetLine } from '../../answers/changes.ts';
import { newText, nowText, oldText, whatOf } from './words.ts';

const line = (more: Partial<SheetLine>): SheetLine =>
  ({
    action: 'update',
    entity: 'target',
    field: 'bid',
    target_kind: 'keyword',
    match_type: 'broad',
    ...more,
  }) as SheetLine;

describe('what a line changes', () => {
  test.each([
    [line({}), 'Bid of broad keyword'],
    [line({ target_kind: 'automatic', match_type: null }), 'Bid of automatic target'],
    [line({ action: 'create', field: '' }), 'New broad keyword'],
    [line({ action: 'archive', field: 'status' }), 'Archive broad keyword'],
    [line({ field: 'status' }), 'Status of broad keyword'],
    [line({ entity: 'negative', match_type: 'negative_phrase', action: 'create' }), 'Negative phrase'],
    [line({ entity: 'negative', match_type: 'negative_exact', action: 'archive' }), 'Remove negative exact'],
    [line({ entity: 'placement_modifier', field: 'top_of_search' }), 'Modifier, top of search'],
    [line({ entity: 'campaign', field: 'daily_budget' }), 'Daily budget'],
    [line({ entity: 'campaign', field: 'end_date' }), 'End date'],
    [line({ entity: 'ad_group', field: 'default_bid' }), 'Default bid'],
    [line({ entity: 'ad_group', field: 'status' }), 'Status of ad group'],
  ])('%#: %s', (one, words) => expect(whatOf(one)).toBe(words));

  test('values as people read them: money in units, a day as it is written, what is gone as gone', () => {
    const one = line({ old_value: '500000', new_value: '730000', now_value: null });
    expect([oldText(one), newText(one), nowText(one)]).toEqual(['0.50', '0.73', 'gone']);
    const status = line({
      field: 'status',
      old_value: 'enabled',
      new_value: 'paused',
      now_value: 'archived',
    });
    expect([oldText(status), newText(status), nowText(status)]).toEqual(['enabled', 'paused', 'archived']);
  });
});
