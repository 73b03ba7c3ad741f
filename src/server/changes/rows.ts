import { conflictKey, type LineDraft } from '../../core/changes/lines.ts';
import type { NewLine } from './lines.queries.ts';

/** A draft as the row of a sheet. */
export const rowOf = (
  draft: LineDraft,
  more: Pick<NewLine, 'sheet_id' | 'group_key' | 'finding_key' | 'proposed_by' | 'reverts'>,
): NewLine => ({
  sheet_id: more.sheet_id,
  group_key: more.group_key,
  finding_key: more.finding_key,
  proposed_by: more.proposed_by,
  reverts: more.reverts,
  action: draft.action,
  entity: draft.entity,
  object_id: draft.objectId,
  campaign_id: draft.campaignId,
  ad_group_id: draft.adGroupId,
  field: draft.field,
  old_value: draft.oldValue,
  new_value: draft.newValue,
  target_kind: draft.targetKind,
  match_type: draft.matchType,
  expression: draft.expression,
  harvest: draft.harvest === null ? null : `${more.group_key}:${draft.harvest}`,
  reason: draft.reason,
  effect: draft.effect,
  test: draft.test,
  conflict_key: conflictKey(draft),
});
