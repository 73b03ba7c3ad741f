import { readRule } from '../../../core/account/rule.ts';
import { column } from '../files/columns.ts';
import type { RowCheck } from '../files/read.ts';
import { textOf } from '../files/read.ts';
import { inBatches, noDays, type Loader } from '../staging/loader.ts';
import { makeStaged, stageRows } from '../staging/tables.ts';
import type { Kind, Loading } from './kind.ts';
import { campaign, campaignId } from './shared.ts';
import { mergeStructure } from './structure.queries.ts';
import { words } from './words.ts';

const entities = [
  'budget_group',
  'campaign',
  'placement_modifier',
  'ad_group',
  'product_ad',
  'target',
  'negative',
  'picture',
  'title',
  'left_out',
];

/** Also brings entity and match type into the form in which they are kept. */
const check: RowCheck = (values) => {
  const entity = words(textOf(values.entity) ?? '');
  if (!entities.includes(entity))
    return { column: 'entity', reason: `It is none of ${entities.join(', ')}.` };
  if (entity !== 'budget_group' && !values.campaign && !values.campaign_id)
    return { column: 'campaign', reason: 'It names no campaign.' };
  if (['target', 'negative', 'picture', 'title', 'left_out'].includes(entity) && !values.expression)
    return { column: 'expression', reason: 'It has no expression.' };
  const rule = textOf(values.rule);
  if (rule !== null && readRule(rule) === null)
    return { column: 'rule', reason: 'It is no rule: a JSON object, as {"category": "crocks"}.' };
  values.entity = entity;
  values.match_type = textOf(values.match_type)?.toLowerCase() ?? null;
  return null;
};

const staged = {
  entity: 'text',
  campaign_id: 'text',
  campaign: 'text',
  ad_group_id: 'text',
  ad_group: 'text',
  target_id: 'text',
  negative_id: 'text',
  status: 'text',
  kind: 'text',
  daily_budget: 'bigint',
  lifetime_budget: 'bigint',
  pacing: 'text',
  strategy: 'text',
  schedule: 'text',
  start_date: 'date',
  end_date: 'date',
  placement: 'text',
  modifier: 'double precision',
  default_bid: 'bigint',
  sku: 'text',
  rule: 'text',
  related_categories: 'text',
  creative_id: 'text',
  target_kind: 'text',
  match_type: 'text',
  expression: 'text',
  bid: 'bigint',
  scope: 'text',
  budget_group_id: 'text',
  budget_group: 'text',
};

/** What changed is a change on the day `asOf`, by default the account's today. */
async function open({ tx, accountId, asOf, whole }: Loading): Promise<Loader> {
  await makeStaged(tx, 'staged_structure', staged);
  return inBatches(
    check,
    (rows) => stageRows(tx, 'staged_structure', staged, rows),
    async () => {
      const [account] = await tx<{ today: string | null }[]>`
        select today from account where account_id = ${accountId}`;
      const day = asOf ?? account?.today ?? new Date().toISOString().slice(0, 10);
      await mergeStructure(tx, accountId, day, whole);
      return noDays;
    },
  );
}

/** Campaigns, ad groups, ads, targets, negatives and placement modifiers as they stand. */
export const structure: Kind = {
  columns: [
    column('entity', 'text', 'object, record, record type', true),
    column('budget_group_id', 'text'),
    column('budget_group', 'text'),
    { ...campaign, required: false },
    campaignId,
    column('ad_group', 'text', 'ad group name, adgroup'),
    column('ad_group_id', 'text', 'adgroup id'),
    column('target_id', 'text', 'keyword id'),
    column('negative_id', 'text'),
    column('status', 'text', 'state'),
    column('kind', 'text', 'campaign kind, campaign type'),
    column('daily_budget', 'money', 'budget'),
    column('lifetime_budget', 'money'),
    column('pacing', 'text'),
    column('strategy', 'text', 'bidding strategy'),
    column('schedule', 'text'),
    column('start_date', 'date', 'start'),
    column('end_date', 'date', 'end'),
    column('placement', 'text'),
    column('modifier', 'percent', 'placement modifier, adjustment'),
    column('default_bid', 'money'),
    column('sku', 'text'),
    column('rule', 'text'),
    column('related_categories', 'text'),
    column('creative_id', 'text'),
    column('target_kind', 'text', 'target type'),
    column('match_type', 'text', 'match'),
    column('expression', 'text', 'keyword, target, keyword text'),
    column('bid', 'money', 'max bid, keyword bid'),
    column('scope', 'text', 'level'),
  ],
  open,
  analysed: () => ['target', 'ad_group', 'campaign', 'negative', 'product_ad'],
};
