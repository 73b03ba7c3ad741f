import { isDeepStrictEqual } from 'node:util';
import {
  placements,
  type AdGroup,
  type Campaign,
  type Creative,
  type Negative,
  type Status,
  type Structure,
  type Target,
} from '../world/account.ts';
import { membersOf } from '../world/collection.ts';
import { readSchedule } from '../world/schedule.ts';
import type { World } from '../world/world.ts';
import { checkName, checkSpan, ruleSchema, type Written } from './create.ts';
import { checkBid, checkBudget, readDayOrNone, readNumber, refuse, type ChangeLine } from './lines.ts';
import { limits } from '../world/account.ts';

type Changing = Campaign | AdGroup | Target | Negative | Creative;

/** A field that can be changed: how it stands as text, and the object with the new value. Throws a Refusal. */
interface Field<Body> {
  live: (body: Body) => string;
  set: (body: Body, value: string, world: World) => Body;
}

const field = <Body>(live: Field<Body>['live'], set: Field<Body>['set']): Field<never> =>
  ({ live, set }) as unknown as Field<never>;

function oneOf<T extends string>(value: string, known: readonly T[], what: string): T {
  if (!known.includes(value as T)) refuse('bad_value', `${what} "${value}" is none of ${known.join(', ')}.`);
  return value as T;
}

function readRule(value: string): NonNullable<AdGroup['rule']> {
  let rule: unknown;
  try {
    rule = JSON.parse(value);
  } catch {
    return refuse('bad_value', 'A rule is written as JSON.');
  }
  const { error, value: checked } = ruleSchema.validate(rule);
  return error ? refuse('bad_value', `rule: ${error.message}.`) : checked;
}

const today = (world: World): string => world.today ?? world.scenario.account.firstDay;

const fields: Readonly<Record<string, Field<never>>> = {
  'target.bid': field<Target>(
    ({ bid }) => String(bid),
    (body, value) => ({ ...body, bid: checkBid(value) }),
  ),
  'ad_group.default_bid': field<AdGroup>(
    ({ defaultBid }) => String(defaultBid),
    (body, value) => ({ ...body, defaultBid: checkBid(value) }),
  ),
  'ad_group.name': field<AdGroup>(
    ({ name }) => name,
    (body, value, { structure }) => {
      const others = [...structure.adGroups.values()].filter(
        ({ id, campaignId }) => campaignId === body.campaignId && id !== body.id,
      );
      return { ...body, name: checkName(value, others, 'ad group') };
    },
  ),
  'ad_group.end_date': field<AdGroup>(
    ({ endDate }) => endDate ?? '',
    (body, value, world) => {
      const endDate = readDayOrNone(value);
      checkSpan(body.startDate ?? null, endDate, today(world));
      return { ...body, endDate };
    },
  ),
  'ad_group.related_categories': field<AdGroup>(
    ({ relatedCategories }) => String(relatedCategories ?? false),
    (body, value) => ({
      ...body,
      relatedCategories: oneOf(value, ['true', 'false'], 'Related categories') === 'true',
    }),
  ),
  'ad_group.rule': field<AdGroup>(
    ({ rule }) => (rule ? JSON.stringify(rule) : ''),
    (body, value, world) => {
      if (!body.rule) refuse('bad_action', 'This ad group lists its products: it has no rule.');
      const rule = readRule(value);
      return { ...body, rule, skus: membersOf(rule, world.catalogue.all) };
    },
  ),
  'campaign.name': field<Campaign>(
    ({ name }) => name,
    (body, value, { structure }) => {
      const others = [...structure.campaigns.values()].filter(({ id }) => id !== body.id);
      return { ...body, name: checkName(value, others, 'campaign') };
    },
  ),
  'campaign.daily_budget': field<Campaign>(
    ({ dailyBudget }) => String(dailyBudget),
    (body, value) => {
      if (body.budgetKind === 'lifetime') refuse('bad_field', 'This campaign has a lifetime budget.');
      return { ...body, dailyBudget: checkBudget(value, 'daily') };
    },
  ),
  'campaign.lifetime_budget': field<Campaign>(
    ({ lifetimeBudget }) => String(lifetimeBudget ?? ''),
    (body, value) => {
      if (body.budgetKind !== 'lifetime') refuse('bad_field', 'This campaign has a daily budget.');
      return { ...body, lifetimeBudget: checkBudget(value, 'lifetime') };
    },
  ),
  'campaign.pacing': field<Campaign>(
    ({ pacing }) => pacing ?? 'as_it_comes',
    (body, value) => ({ ...body, pacing: oneOf(value, ['even', 'as_it_comes'] as const, 'Pacing') }),
  ),
  'campaign.strategy': field<Campaign>(
    ({ strategy }) => strategy,
    (body, value) => ({ ...body, strategy: oneOf(value, ['fixed', 'down_only', 'up_and_down'], 'Strategy') }),
  ),
  'campaign.end_date': field<Campaign>(
    ({ endDate }) => endDate ?? '',
    (body, value, world) => {
      const endDate = readDayOrNone(value);
      if (body.budgetKind === 'lifetime' && endDate === null)
        refuse('end_date_needed', 'A lifetime budget needs an end date.');
      checkSpan(body.startDate, endDate, today(world));
      return { ...body, endDate };
    },
  ),
  'campaign.schedule': field<Campaign>(
    ({ schedule }) => schedule ?? '',
    (body, value) => {
      const schedule = value.trim();
      try {
        readSchedule(schedule);
      } catch (error) {
        refuse('bad_value', (error as Error).message);
      }
      return { ...body, schedule };
    },
  ),
};

function checkStale(line: ChangeLine, live: string): void {
  if (line.old_value === null || line.old_value === undefined || line.old_value === '') return;
  const same =
    line.old_value === live ||
    (live !== '' && Number.isFinite(Number(live)) && Number(line.old_value) === Number(live)) ||
    // A rule is what it asks for, in whatever order it is written.
    (live.startsWith('{') && isDeepStrictEqual(readRule(line.old_value), readRule(live)));
  if (!same) refuse('stale', `The value is ${live} by now, not ${line.old_value}.`, live);
}

/** How objects of an entity are kept. */
export const kindOf = (entity: ChangeLine['entity']): string =>
  entity === 'picture' || entity === 'title' || entity === 'left_out' ? 'creative' : entity;

/** The objects of a kind by id. */
export function objectsOf(structure: Structure, kind: string): Map<string, Changing> {
  const { campaigns, adGroups, targets, negatives, creatives } = structure;
  const maps: Record<string, Map<string, never>> = {
    campaign: campaigns,
    ad_group: adGroups,
    target: targets,
    negative: negatives,
    creative: creatives,
  } as never;
  return maps[kind] as unknown as Map<string, Changing>;
}

function setModifier({ structure }: World, line: ChangeLine): Written {
  const campaign = structure.campaigns.get(line.campaign_id ?? line.id ?? '');
  if (!campaign) return refuse('unknown_object', `There is no campaign ${line.campaign_id}.`);
  if (campaign.status === 'archived') refuse('archived', 'An archived object cannot be changed.');
  const place = placements.indexOf(line.field as (typeof placements)[number]);
  if (place < 0) refuse('bad_field', `There is no placement "${line.field}".`);
  checkStale(line, String(campaign.modifiers[place]));
  const modifier = readNumber(line.new_value, 'Modifier');
  if (modifier < 0 || modifier > limits.maximum_modifier)
    refuse('modifier_range', `A modifier lies between 0 and ${limits.maximum_modifier} %.`);
  const modifiers = campaign.modifiers.map((value, i) => (i === place ? modifier : value));
  return { kind: 'campaign', id: campaign.id, body: { ...campaign, modifiers } };
}

/** A product that an ad group stops advertising; its id is that of the ad group, a colon, the SKU. */
function dropProductAd({ structure }: World, line: ChangeLine): Written {
  const [adGroupId = '', ...rest] = (line.id ?? '').split(':');
  const sku = rest.join(':');
  const adGroup = structure.adGroups.get(adGroupId);
  if (!adGroup?.skus.includes(sku) || adGroup.rule)
    return refuse('unknown_object', `There is no product_ad ${line.id ?? ''}.`);
  if (line.action !== 'archive') refuse('bad_action', 'A product_ad can be made and archived only.');
  const skus = adGroup.skus.filter((one) => one !== sku);
  return { kind: 'ad_group', id: adGroupId, body: { ...adGroup, skus }, answer: line.id! };
}

/** What a line makes of an object that is there already; throws a Refusal. Nothing is written here. */
export function update(world: World, line: ChangeLine): Written {
  if (line.entity === 'placement_modifier') return setModifier(world, line);
  if (line.entity === 'product_ad') return dropProductAd(world, line);
  const kind = kindOf(line.entity);
  const object = objectsOf(world.structure, kind).get(line.id ?? '');
  if (!object) return refuse('unknown_object', `There is no ${line.entity} ${line.id ?? ''}.`);
  const { id } = object;
  if (line.action === 'archive') {
    if (object.status === 'archived') refuse('archived', `${line.entity} ${id} is archived already.`);
    return { kind, id, body: { ...object, status: 'archived' } };
  }
  if (object.status === 'archived') refuse('archived', 'An archived object cannot be changed.');
  if (line.field === 'status') {
    checkStale(line, object.status);
    const known = ['enabled', 'paused'].includes(line.new_value ?? '');
    if (!known) refuse('bad_value', `Status "${line.new_value}" is neither enabled nor paused.`);
    return { kind, id, body: { ...object, status: line.new_value as Status } };
  }
  const known = fields[`${line.entity}.${line.field ?? ''}`] as Field<Changing> | undefined;
  if (!known)
    return refuse('bad_field', `${line.entity} has no field "${line.field ?? ''}" that can be changed.`);
  checkStale(line, known.live(object));
  return { kind, id, body: known.set(object, line.new_value ?? '', world) };
}
