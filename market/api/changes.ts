import { createHash } from 'node:crypto';
import Joi from 'joi';
import type { TransactionSql } from 'postgres';
import {
  limits,
  placements,
  type AdGroup,
  type Campaign,
  type Negative,
  type Structure,
  type Target,
} from '../world/account.ts';
import { words } from '../world/matching.ts';
import { readSchedule } from '../world/schedule.ts';
import type { World } from '../world/world.ts';

/** One line of a batch: one field of one object, or one created or archived object. */
export interface ChangeLine {
  line_id: string;
  action: 'create' | 'update' | 'archive';
  entity: 'campaign' | 'ad_group' | 'placement_modifier' | 'target' | 'negative';
  id?: string | null;
  campaign_id?: string | null;
  ad_group_id?: string | null;
  field?: string | null;
  old_value?: string | null;
  new_value?: string | null;
  target_kind?: string | null;
  match_type?: string | null;
  expression?: string | null;
}

export interface LineAnswer {
  line_id: string;
  state: 'applied' | 'refused';
  id?: string;
  code?: string;
  message?: string;
  live_value?: string;
}

const text = Joi.string().allow('', null);

export const batchSchema = Joi.object<{ idempotency_key: string; lines: ChangeLine[] }>({
  idempotency_key: Joi.string().min(8).max(200).required(),
  lines: Joi.array()
    .items(
      Joi.object({
        line_id: Joi.string().required(),
        action: Joi.string().valid('create', 'update', 'archive').required(),
        entity: Joi.string()
          .valid('campaign', 'ad_group', 'placement_modifier', 'target', 'negative')
          .required(),
        id: text,
        campaign_id: text,
        ad_group_id: text,
        field: text,
        old_value: text,
        new_value: text,
        target_kind: text,
        match_type: text,
        expression: text,
      }),
    )
    .min(1)
    .max(limits.batch_lines)
    .required(),
});

class Refusal extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly live?: string,
  ) {
    super(message);
  }
}

const refuse = (code: string, message: string, live?: string): never => {
  throw new Refusal(code, message, live);
};

function readNumber(value: string | null | undefined, field: string): number {
  const number = Number(value);
  if (value === null || value === undefined || value === '' || !Number.isFinite(number)) {
    refuse('bad_value', `${field} "${value ?? ''}" is not a number.`);
  }
  return number;
}

function checkBid(value: string | null | undefined): number {
  const bid = readNumber(value, 'Bid');
  if (bid < limits.minimum_bid) {
    refuse('bid_below_minimum', `Bid ${bid} is below the least bid of ${limits.minimum_bid.toFixed(2)}.`);
  }
  if (bid > limits.maximum_bid) refuse('bid_above_maximum', `Bid ${bid} is above ${limits.maximum_bid}.`);
  if (Math.abs(bid * 100 - Math.round(bid * 100)) > 1e-6) {
    refuse('bid_step', `Bid ${bid} is not in steps of ${limits.bid_step}.`);
  }
  return bid;
}

function checkStale(line: ChangeLine, live: string): void {
  if (line.old_value === null || line.old_value === undefined || line.old_value === '') return;
  const same =
    line.old_value === live ||
    (live !== '' && Number.isFinite(Number(live)) && Number(line.old_value) === Number(live));
  if (!same) refuse('stale', `The value is ${live} by now, not ${line.old_value}.`, live);
}

function checkKeyword(expression: string): void {
  if (expression.length > limits.keyword_characters) {
    refuse('keyword_too_long', `A keyword has at most ${limits.keyword_characters} characters.`);
  }
  if (words(expression).length === 0) refuse('keyword_empty', 'A keyword needs a letter or digit.');
  if (words(expression).length > limits.keyword_words) {
    refuse('keyword_too_many_words', `A keyword has at most ${limits.keyword_words} words.`);
  }
  if (!new RegExp(limits.keyword_pattern, 'u').test(expression)) {
    refuse('keyword_characters', "A keyword holds letters, digits, spaces and ' - & . + only.");
  }
}

const itemCode = /^QY[0-9A-Z]{6}$/;

function readDay(text: string | undefined): string {
  const day = text ?? '';
  const time = Date.parse(`${day}T00:00:00Z`);
  if (!/^\d{4}-\d\d-\d\d$/.test(day) || new Date(time).toISOString().slice(0, 10) !== day)
    refuse('bad_value', `"${day}" is not a day.`);
  return day;
}

function objectsOf(
  { campaigns, adGroups, targets, negatives }: Structure,
  entity: string,
): Map<string, Campaign> | Map<string, AdGroup> | Map<string, Target> | Map<string, Negative> {
  if (entity === 'campaign') return campaigns;
  if (entity === 'ad_group') return adGroups;
  return entity === 'target' ? targets : negatives;
}

interface Written {
  kind: string;
  id: string;
  body: object;
}

/** Works out what one line does; throws a Refusal. Nothing is written here. */
async function apply(world: World, tx: TransactionSql, line: ChangeLine): Promise<Written> {
  const { structure } = world;
  if (line.action === 'create') return create(world, tx, line);
  if (line.entity === 'placement_modifier') {
    const campaign = structure.campaigns.get(line.campaign_id ?? line.id ?? '');
    if (!campaign) return refuse('unknown_object', `There is no campaign ${line.campaign_id}.`);
    const place = placements.indexOf(line.field as (typeof placements)[number]);
    if (place < 0) refuse('bad_field', `There is no placement "${line.field}".`);
    checkStale(line, String(campaign.modifiers[place]));
    const modifier = readNumber(line.new_value, 'Modifier');
    if (modifier < 0 || modifier > limits.maximum_modifier) {
      refuse('modifier_range', `A modifier lies between 0 and ${limits.maximum_modifier} %.`);
    }
    const modifiers = campaign.modifiers.map((value, i) => (i === place ? modifier : value));
    return { kind: 'campaign', id: campaign.id, body: { ...campaign, modifiers } };
  }
  const object: Campaign | AdGroup | Target | Negative | undefined = objectsOf(structure, line.entity).get(
    line.id ?? '',
  );
  if (!object) return refuse('unknown_object', `There is no ${line.entity} ${line.id ?? ''}.`);
  if (line.action === 'archive') {
    if (object.status === 'archived') refuse('archived', `${line.entity} ${object.id} is archived already.`);
    return { kind: line.entity, id: object.id, body: { ...object, status: 'archived' } };
  }
  if (object.status === 'archived') refuse('archived', 'An archived object cannot be changed.');
  if (line.field === 'status') {
    checkStale(line, object.status);
    const known = ['enabled', 'paused'].includes(line.new_value ?? '');
    if (!known) refuse('bad_value', `Status "${line.new_value}" is neither enabled nor paused.`);
    return { kind: line.entity, id: object.id, body: { ...object, status: line.new_value } };
  }
  if (line.entity === 'target' && line.field === 'bid') {
    checkStale(line, String((object as Target).bid));
    return { kind: 'target', id: object.id, body: { ...object, bid: checkBid(line.new_value) } };
  }
  if (line.entity === 'campaign' && line.field === 'daily_budget') {
    checkStale(line, String((object as Campaign).dailyBudget));
    const dailyBudget = readNumber(line.new_value, 'Budget');
    if (dailyBudget < limits.minimum_budget) {
      refuse('budget_below_minimum', `A daily budget is at least ${limits.minimum_budget.toFixed(2)}.`);
    }
    return { kind: 'campaign', id: object.id, body: { ...object, dailyBudget } };
  }
  if (line.entity === 'campaign' && line.field === 'end_date') {
    const campaign = object as Campaign;
    checkStale(line, campaign.endDate ?? '');
    const endDate = line.new_value === null || line.new_value === '' ? null : readDay(line.new_value);
    const today = world.today ?? world.scenario.account.firstDay;
    if (endDate !== null && endDate < today)
      refuse('end_date_passed', `${endDate} has passed: today is ${today}.`);
    if (endDate !== null && endDate < campaign.startDate)
      refuse('bad_value', `The campaign starts on ${campaign.startDate}.`);
    return { kind: 'campaign', id: campaign.id, body: { ...campaign, endDate } };
  }
  if (line.entity === 'ad_group' && line.field === 'default_bid') {
    checkStale(line, String((object as AdGroup).defaultBid));
    return { kind: 'ad_group', id: object.id, body: { ...object, defaultBid: checkBid(line.new_value) } };
  }
  if (line.entity === 'campaign' && line.field === 'schedule') {
    const campaign = object as Campaign;
    checkStale(line, campaign.schedule ?? '');
    const schedule = (line.new_value ?? '').trim();
    try {
      readSchedule(schedule);
    } catch (error) {
      refuse('bad_value', (error as Error).message);
    }
    return { kind: 'campaign', id: campaign.id, body: { ...campaign, schedule } };
  }
  return refuse('bad_field', `${line.entity} has no field "${line.field ?? ''}" that can be changed.`);
}

async function create(world: World, tx: TransactionSql, line: ChangeLine): Promise<Written> {
  const { structure } = world;
  const expression = (line.expression ?? '').trim();
  const adGroup = line.ad_group_id ? structure.adGroups.get(line.ad_group_id) : undefined;
  if (line.ad_group_id && !adGroup) refuse('unknown_object', `There is no ad group ${line.ad_group_id}.`);
  const [next] = await tx<{ number: string }[]>`select nextval('object_number')::text as number`;
  const number = next!.number;
  if (line.entity === 'target') {
    if (!adGroup) return refuse('unknown_object', 'A target needs an ad group.');
    const kind = line.target_kind ?? 'keyword';
    const siblings = [...structure.targets.values()].filter(
      (target) => target.adGroupId === adGroup.id && target.status !== 'archived',
    );
    if (siblings.length >= limits.targets_per_ad_group) {
      refuse('too_many_targets', `An ad group holds at most ${limits.targets_per_ad_group} targets.`);
    }
    if (kind === 'item' && !itemCode.test(expression.toUpperCase())) {
      refuse('bad_item_code', `"${expression}" is not an item code.`);
    }
    if (kind === 'keyword') {
      checkKeyword(expression);
      if (!['broad', 'phrase', 'exact'].includes(line.match_type ?? '')) {
        refuse('bad_value', `Match type "${line.match_type ?? ''}" is not broad, phrase or exact.`);
      }
    }
    const key = (text: string) => words(text).join(' ');
    const twin = siblings.find(
      (target) =>
        target.kind === kind &&
        (target.matchType ?? '') === (line.match_type ?? '') &&
        key(target.expression) === key(expression),
    );
    if (twin) refuse('duplicate', `This ad group has it already (${twin.id}).`, twin.id);
    const body: Target = {
      id: `t${number}`,
      adGroupId: adGroup.id,
      kind,
      matchType: kind === 'keyword' ? line.match_type! : null,
      expression: kind === 'item' ? expression.toUpperCase() : expression,
      bid: checkBid(line.new_value),
      status: 'enabled',
    };
    return { kind: 'target', id: body.id, body };
  }
  if (line.entity === 'negative') {
    const campaignId = adGroup?.campaignId ?? line.campaign_id ?? '';
    if (!structure.campaigns.has(campaignId)) refuse('unknown_object', `There is no campaign ${campaignId}.`);
    const matchType = line.match_type ?? '';
    if (!['negative_exact', 'negative_phrase', 'negative_item'].includes(matchType)) {
      refuse('bad_value', `Match type "${matchType}" is not a negative's.`);
    }
    checkKeyword(expression);
    const siblings = [...structure.negatives.values()].filter(
      (negative) =>
        negative.status !== 'archived' &&
        negative.campaignId === campaignId &&
        negative.adGroupId === (adGroup?.id ?? null),
    );
    if (siblings.length >= limits.negatives_per_ad_group) {
      refuse('too_many_negatives', `At most ${limits.negatives_per_ad_group} negatives stand in one place.`);
    }
    const twin = siblings.find(
      (negative) =>
        negative.matchType === matchType &&
        words(negative.expression).join(' ') === words(expression).join(' '),
    );
    if (twin) refuse('duplicate', `This negative stands already (${twin.id}).`, twin.id);
    const body: Negative = {
      id: `n${number}`,
      campaignId,
      adGroupId: adGroup?.id ?? null,
      matchType,
      expression,
      status: 'enabled',
    };
    return { kind: 'negative', id: body.id, body };
  }
  return refuse('bad_action', `A ${line.entity} cannot be created here.`);
}

/**
 * Applies a batch in one transaction, line by line: each applied or refused on its own. The same key again gives
 * the same answer and applies nothing; the same key with other lines is a conflict (null).
 */
export async function applyBatch(
  world: World,
  key: string,
  lines: ChangeLine[],
): Promise<{ answers: LineAnswer[]; repeated: boolean } | null> {
  const digest = createHash('sha256').update(JSON.stringify(lines)).digest('hex');
  const { structure } = world;
  const undo: (() => void)[] = [];
  try {
    return await world.sql.begin(async (tx) => {
      await tx`select pg_advisory_xact_lock(4711)`;
      const [known] = await tx<{ digest: string; answer: LineAnswer[] }[]>`
        select digest, answer from change_batch where idempotency_key = ${key}`;
      if (known) return known.digest === digest ? { answers: known.answer, repeated: true } : null;
      const answers: LineAnswer[] = [];
      for (const line of lines) {
        try {
          const { kind, id, body } = await apply(world, tx, line);
          const map = objectsOf(structure, kind) as Map<string, object>;
          const before = map.get(id);
          undo.push(() => (before ? map.set(id, before) : map.delete(id)));
          map.set(id, body);
          await tx`
            insert into object (kind, id, body) values (${kind}, ${id}, ${tx.json(body as never)})
            on conflict (kind, id) do update set body = excluded.body`;
          answers.push({ line_id: line.line_id, state: 'applied', id });
        } catch (error) {
          if (!(error instanceof Refusal)) throw error;
          answers.push({
            line_id: line.line_id,
            state: 'refused',
            code: error.code,
            message: error.message,
            ...(error.live === undefined ? {} : { live_value: error.live }),
          });
        }
      }
      await tx`update world set version = version + 1`;
      await tx`
        insert into change_batch (idempotency_key, digest, answer, applied_on)
        values (${key}, ${digest}, ${tx.json(answers as never)}, ${world.today ?? world.scenario.account.firstDay})`;
      structure.version++;
      world.restructured();
      return { answers, repeated: false };
    });
  } catch (error) {
    for (const step of undo.reverse()) step();
    throw error;
  }
}
