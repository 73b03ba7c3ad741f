import Joi from 'joi';
import type { TransactionSql } from 'postgres';
import {
  limits,
  placements,
  type AdGroup,
  type Campaign,
  type Creative,
  type Negative,
  type Status,
  type Target,
} from '../world/account.ts';
import { readCategory } from '../world/category.ts';
import { membersOf, type CollectionRule } from '../world/collection.ts';
import { words } from '../world/matching.ts';
import type { World } from '../world/world.ts';
import {
  checkBid,
  checkBudget,
  checkKeyword,
  readDay,
  readDayOrNone,
  refuse,
  type ChangeLine,
} from './lines.ts';

/** An object as a line leaves it. `answer`: what the sender may call it, where that is not its id. */
export interface Written {
  kind: string;
  id: string;
  body: object;
  answer?: string;
}

const automaticModes = ['close terms', 'wide terms', 'similar items', 'companion items'];
const itemCode = /^QY[0-9A-Z]{6}$/;
const alive = <T extends { status: Status }>(objects: Iterable<T>): T[] =>
  [...objects].filter(({ status }) => status !== 'archived');

const status = Joi.string().valid('enabled', 'paused').default('enabled');
const campaignValues = Joi.object<Record<string, never> & CampaignValues>({
  name: Joi.string().required(),
  kind: Joi.string().valid('automatic', 'manual').required(),
  status,
  budget_kind: Joi.string().valid('daily', 'lifetime').default('daily'),
  budget: Joi.number().required(),
  pacing: Joi.string().valid('even', 'as_it_comes').default('as_it_comes'),
  strategy: Joi.string().valid('fixed', 'down_only', 'up_and_down').default('fixed'),
  start_date: Joi.string().allow(null),
  end_date: Joi.string().allow(null),
  modifiers: Joi.object().pattern(Joi.string(), Joi.number().min(0).max(limits.maximum_modifier)).default({}),
});
interface CampaignValues {
  name: string;
  kind: string;
  status: Status;
  budget_kind: 'daily' | 'lifetime';
  budget: number;
  pacing: 'even' | 'as_it_comes';
  strategy: string;
  start_date?: string | null;
  end_date?: string | null;
  modifiers: Record<string, number>;
}

const ends = Joi.array().items(Joi.number().min(0)).length(2).allow(null).default(null);
export const ruleSchema = Joi.object<CollectionRule>({
  category: Joi.string().allow(null).default(null),
  brand: Joi.string().allow(null).default(null),
  price: ends,
  rating: ends,
  discount: Joi.number().min(0).max(100).allow(null).default(null),
  inStock: Joi.boolean().default(true),
});
interface AdGroupValues {
  name: string;
  status: Status;
  default_bid: number;
  start_date?: string | null;
  end_date?: string | null;
  related_categories: boolean;
  rule: CollectionRule | null;
}
const adGroupValues = Joi.object<AdGroupValues>({
  name: Joi.string().required(),
  status,
  default_bid: Joi.number().required(),
  start_date: Joi.string().allow(null),
  end_date: Joi.string().allow(null),
  related_categories: Joi.boolean().default(false),
  rule: ruleSchema.allow(null).default(null),
});

function valuesOf<T>(schema: Joi.ObjectSchema<T>, line: ChangeLine): T {
  const { error, value } = schema.validate(line.values ?? {});
  if (error) refuse('bad_value', `${line.entity}: ${error.message}.`);
  return value as T;
}

export function checkName(
  name: string,
  others: Iterable<{ name: string; status: Status; id: string }>,
  what: string,
): string {
  const trimmed = name.trim();
  if (trimmed === '' || trimmed.length > limits.name_characters)
    refuse('bad_name', `A name has 1 to ${limits.name_characters} characters.`);
  const twin = alive(others).find((other) => other.name.toLowerCase() === trimmed.toLowerCase());
  if (twin) refuse('name_taken', `There is a ${what} "${trimmed}" already (${twin.id}).`, twin.id);
  return trimmed;
}

export function checkSpan(start: string | null, end: string | null, today: string): void {
  if (end !== null && end < today) refuse('end_date_passed', `${end} has passed: today is ${today}.`);
  if (start !== null && end !== null && end < start)
    refuse('bad_value', `It ends on ${end}, before it starts on ${start}.`);
}

function newCampaign(world: World, line: ChangeLine, id: string): Written {
  const values = valuesOf(campaignValues, line);
  const today = world.today ?? world.scenario.account.firstDay;
  const start = values.start_date ? readDay(values.start_date) : today;
  const end = readDayOrNone(values.end_date);
  checkSpan(start, end, today);
  const unknown = Object.keys(values.modifiers).find((name) => !placements.includes(name as never));
  if (unknown !== undefined) refuse('bad_field', `There is no placement "${unknown}".`);
  const budget = checkBudget(values.budget, values.budget_kind);
  if (values.budget_kind === 'lifetime' && end === null)
    refuse('end_date_needed', 'A lifetime budget needs an end date.');
  const body: Campaign = {
    id,
    name: checkName(values.name, world.structure.campaigns.values(), 'campaign'),
    kind: values.kind,
    budgetGroup: null,
    dailyBudget: values.budget_kind === 'daily' ? budget : 0,
    strategy: values.strategy,
    startDate: start,
    endDate: end,
    status: values.status,
    modifiers: placements.map((name) => values.modifiers[name] ?? 0),
    schedule: '',
    pacing: values.pacing,
    ...(values.budget_kind === 'lifetime' ? { budgetKind: 'lifetime' as const, lifetimeBudget: budget } : {}),
  };
  return { kind: 'campaign', id, body };
}

function newAdGroup(world: World, line: ChangeLine, id: string): Written {
  const { structure } = world;
  const campaign = structure.campaigns.get(line.campaign_id ?? '');
  if (!campaign) return refuse('unknown_object', `There is no campaign ${line.campaign_id ?? ''}.`);
  const values = valuesOf(adGroupValues, line);
  const start = readDayOrNone(values.start_date);
  const end = readDayOrNone(values.end_date);
  checkSpan(start, end, world.today ?? world.scenario.account.firstDay);
  const siblings = [...structure.adGroups.values()].filter(({ campaignId }) => campaignId === campaign.id);
  const body: AdGroup = {
    id,
    campaignId: campaign.id,
    name: checkName(values.name, siblings, 'ad group'),
    defaultBid: checkBid(values.default_bid),
    status: values.status,
    skus: values.rule ? membersOf(values.rule, world.catalogue.all) : [],
    ...(start === null ? {} : { startDate: start }),
    ...(end === null ? {} : { endDate: end }),
    ...(values.rule ? { rule: values.rule } : {}),
    ...(values.related_categories ? { relatedCategories: true } : {}),
  };
  return { kind: 'ad_group', id, body };
}

function newProductAd(world: World, line: ChangeLine, adGroup: AdGroup): Written {
  const sku = (line.expression ?? '').trim();
  if (adGroup.rule) refuse('bad_action', 'The products of this ad group are those that its rule matches.');
  if (!world.productIndex.has(sku)) refuse('unknown_product', `The account has no product ${sku}.`);
  if (adGroup.skus.includes(sku))
    refuse('duplicate', `This ad group advertises ${sku} already.`, `${adGroup.id}:${sku}`);
  const body = { ...adGroup, skus: [...adGroup.skus, sku] };
  return { kind: 'ad_group', id: adGroup.id, body, answer: `${adGroup.id}:${sku}` };
}

const key = (text: string) => words(text).join(' ');

function newTarget(world: World, line: ChangeLine, adGroup: AdGroup, id: string): Written {
  const expression = (line.expression ?? '').trim();
  const kind = line.target_kind ?? 'keyword';
  const siblings = [...world.structure.targets.values()].filter(
    (target) => target.adGroupId === adGroup.id && target.status !== 'archived',
  );
  if (siblings.length >= limits.targets_per_ad_group)
    refuse('too_many_targets', `An ad group holds at most ${limits.targets_per_ad_group} targets.`);
  if (kind === 'item' && !itemCode.test(expression.toUpperCase()))
    refuse('bad_item_code', `"${expression}" is not an item code.`);
  if (kind === 'automatic' && !automaticModes.includes(expression))
    refuse('bad_value', `"${expression}" is no automatic mode: ${automaticModes.join(', ')}.`);
  if (kind === 'category') checkCategory(world, expression);
  if (kind === 'keyword') {
    checkKeyword(expression);
    if (!['broad', 'phrase', 'exact'].includes(line.match_type ?? ''))
      refuse('bad_value', `Match type "${line.match_type ?? ''}" is not broad, phrase or exact.`);
  }
  const isSame = kind === 'category' ? (text: string) => text : key;
  const twin = siblings.find(
    (target) =>
      target.kind === kind &&
      (target.matchType ?? '') === (line.match_type ?? '') &&
      isSame(target.expression) === isSame(expression),
  );
  if (twin) refuse('duplicate', `This ad group has it already (${twin.id}).`, twin.id);
  const body: Target = {
    id,
    adGroupId: adGroup.id,
    kind,
    matchType: kind === 'keyword' ? line.match_type! : null,
    expression: kind === 'item' ? expression.toUpperCase() : expression,
    bid: checkBid(line.new_value),
    status: 'enabled',
  };
  return { kind: 'target', id, body };
}

function checkCategory(world: World, expression: string): void {
  try {
    const { category } = readCategory(expression);
    if (!world.catalogue.categories.has(category))
      refuse('unknown_category', `There is no category "${category}".`);
  } catch (error) {
    if ((error as { code?: string }).code) throw error;
    refuse('bad_value', (error as Error).message);
  }
}

function newNegative(world: World, line: ChangeLine, adGroup: AdGroup | undefined, id: string): Written {
  const { structure } = world;
  const expression = (line.expression ?? '').trim();
  const campaignId = adGroup?.campaignId ?? line.campaign_id ?? '';
  if (!structure.campaigns.has(campaignId)) refuse('unknown_object', `There is no campaign ${campaignId}.`);
  const matchType = line.match_type ?? '';
  if (!['negative_exact', 'negative_phrase', 'negative_item'].includes(matchType))
    refuse('bad_value', `Match type "${matchType}" is not a negative's.`);
  checkKeyword(expression);
  const siblings = [...structure.negatives.values()].filter(
    (negative) =>
      negative.status !== 'archived' &&
      negative.campaignId === campaignId &&
      negative.adGroupId === (adGroup?.id ?? null),
  );
  if (siblings.length >= limits.negatives_per_ad_group)
    refuse('too_many_negatives', `At most ${limits.negatives_per_ad_group} negatives stand in one place.`);
  const twin = siblings.find(
    (negative) => negative.matchType === matchType && key(negative.expression) === key(expression),
  );
  if (twin) refuse('duplicate', `This negative stands already (${twin.id}).`, twin.id);
  const body: Negative = {
    id,
    campaignId,
    adGroupId: adGroup?.id ?? null,
    matchType,
    expression,
    status: 'enabled',
  };
  return { kind: 'negative', id, body };
}

async function newCreative(
  world: World,
  tx: TransactionSql,
  line: ChangeLine & { entity: Creative['kind'] },
  adGroup: AdGroup,
  id: string,
): Promise<Written> {
  const value = (line.expression ?? '').trim();
  const { entity: kind } = line;
  const siblings = alive(world.structure.creatives.values()).filter(
    ({ adGroupId }) => adGroupId === adGroup.id,
  );
  const ofKind = siblings.filter((one) => one.kind === kind);
  if (kind === 'picture') {
    const [known] = await tx`select 1 from picture where id = ${value}`;
    if (!known) refuse('unknown_picture', `There is no picture ${value}: send its file first.`);
    if (ofKind.length >= limits.pictures_per_ad_group)
      refuse('too_many_pictures', `An ad group holds at most ${limits.pictures_per_ad_group} pictures.`);
  } else if (kind === 'title') {
    if (value === '' || value.length > limits.title_characters)
      refuse('bad_title', `A title has 1 to ${limits.title_characters} characters.`);
    if (ofKind.length >= limits.titles_per_ad_group)
      refuse('too_many_titles', `An ad group holds at most ${limits.titles_per_ad_group} titles.`);
  } else {
    const sides = siblings.filter((one) => one.kind !== 'left_out').map((one) => one.value);
    if (
      !sides.some((side) => value.startsWith(`${side} `)) ||
      !sides.some((side) => value.endsWith(` ${side}`))
    )
      refuse('unknown_object', `"${value}" is no picture and title of this ad group.`);
  }
  const twin = ofKind.find((one) => one.value === value);
  if (twin) refuse('duplicate', `This ad group has it already (${twin.id}).`, twin.id);
  const body: Creative = { id, adGroupId: adGroup.id, kind, value, status: 'enabled' };
  return { kind: 'creative', id, body };
}

const letters: Partial<Record<ChangeLine['entity'], string>> = {
  campaign: 'c',
  ad_group: 'g',
  target: 't',
  negative: 'n',
  picture: 'v',
  title: 'v',
  left_out: 'v',
};

/** What a line that makes an object makes; throws a Refusal. Nothing is written here. */
export async function create(world: World, tx: TransactionSql, line: ChangeLine): Promise<Written> {
  const { structure } = world;
  const adGroup = line.ad_group_id ? structure.adGroups.get(line.ad_group_id) : undefined;
  if (line.ad_group_id && !adGroup) refuse('unknown_object', `There is no ad group ${line.ad_group_id}.`);
  const { entity } = line;
  const [next] = await tx<{ number: string }[]>`select nextval('object_number')::text as number`;
  const id = `${letters[entity] ?? ''}${next!.number}`;
  if (entity === 'campaign') return newCampaign(world, line, id);
  if (entity === 'ad_group') return newAdGroup(world, line, id);
  if (entity === 'negative') return newNegative(world, line, adGroup, id);
  if (entity === 'placement_modifier') return refuse('bad_action', 'A placement_modifier cannot be created.');
  if (!adGroup) return refuse('unknown_object', `A ${entity} needs an ad group.`);
  if (entity === 'product_ad') return newProductAd(world, line, adGroup);
  if (entity === 'target') return newTarget(world, line, adGroup, id);
  return newCreative(world, tx, { ...line, entity }, adGroup, id);
}
