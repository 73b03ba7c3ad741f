import type { Level } from '../account/levels.ts';
import type { Objects } from '../account/store.ts';
import type { Guards } from '../bids/guards.ts';
import { readRule, ruleSaid } from '../account/rule.ts';
import { flat, readSchedule, scheduleSaid } from '../account/schedule.ts';
import { isDay, type Day } from '../metrics/days.ts';
import { money } from '../metrics/format.ts';
import { micros, units, type Micros } from '../metrics/money.ts';

/**
 * Every field that can be changed, said once: how it is read, checked, shown, kept and compared. How a marketplace
 * calls it, its connector says. Values travel as text: money in micros, per cent as it is written, days as YYYY-MM-DD.
 */

/** Objects whose fields change. Of a campaign's placements the line names the placement where others name the field. */
export type FieldEntity = 'campaign' | 'ad_group' | 'target' | 'negative' | 'placement_modifier';

/** What an ad group shows: pictures, titles, and pairs of both that are left out. */
export type CreativeEntity = 'picture' | 'title' | 'left_out';

/** What lines are about: product ads and what they show have no fields, they are made and archived. */
export type Entity = FieldEntity | CreativeEntity | 'product_ad';

export const entities: readonly FieldEntity[] = [
  'campaign',
  'ad_group',
  'target',
  'negative',
  'placement_modifier',
];

export type FieldKind = 'money' | 'percent' | 'day' | 'status' | 'choice' | 'text' | 'schedule' | 'rule';

/** What the marketplace allows, and the account's day. Money in micros. */
export interface FieldLimits {
  bid: Pick<Guards, 'minimumBid' | 'maximumBid' | 'step'>;
  minimumBudget: Micros;
  minimumLifetimeBudget: Micros;
  maximumModifier: number;
  today: Day | null;
}

export interface Range {
  least: number;
  most: number;
  step: number;
}

export interface Field {
  entity: FieldEntity;
  /** Its name in lines, in files and as a column of tables. */
  name: string;
  /** At the head of a column and on a sheet: "Daily budget". */
  label: string;
  /** Of several: "daily budgets". */
  many: string;
  kind: FieldKind;
  /** The level at which it is edited. */
  level: Level;
  /** Levels that show it, beside its own: what lies below shows what its object has. */
  shownAt: readonly Level[];
  /** Of a status or a choice: what it can be; what is archived stays so. */
  choices?: readonly string[];
  /** May be taken away altogether. */
  optional?: boolean;
  range?: (limits: FieldLimits) => Range;
  /** The value of the object at a place in its list. */
  read: (objects: Objects, place: number) => string | number | null;
  /** The column of the object's table that keeps it. */
  column: string;
}

export type Status = 'enabled' | 'paused' | 'archived';
export const statuses: readonly Status[] = ['enabled', 'paused', 'archived'];

const belowCampaign: readonly Level[] = ['ad_groups', 'placements', 'targets', 'terms', 'negatives'];
const bidRange = ({ bid }: FieldLimits): Range => ({
  least: bid.minimumBid,
  most: bid.maximumBid,
  step: bid.step,
});

export const fields: readonly Field[] = [
  {
    entity: 'target',
    name: 'bid',
    label: 'Bid',
    many: 'bids',
    kind: 'money',
    level: 'targets',
    shownAt: ['terms'],
    range: bidRange,
    read: ({ targets }, place) => targets[place]!.bid,
    column: 'bid',
  },
  {
    entity: 'ad_group',
    name: 'default_bid',
    label: 'Default bid',
    many: 'default bids',
    kind: 'money',
    level: 'ad_groups',
    shownAt: ['targets'],
    range: bidRange,
    read: ({ adGroups }, place) => adGroups[place]!.fields.default_bid ?? null,
    column: 'default_bid',
  },
  {
    entity: 'campaign',
    name: 'daily_budget',
    label: 'Daily budget',
    many: 'daily budgets',
    kind: 'money',
    level: 'campaigns',
    shownAt: ['budget_groups', ...belowCampaign],
    range: ({ minimumBudget }) => ({ least: minimumBudget, most: 1e12, step: 10_000 }),
    read: ({ campaigns }, place) => campaigns[place]!.fields.daily_budget ?? null,
    column: 'daily_budget',
  },
  {
    entity: 'campaign',
    name: 'lifetime_budget',
    label: 'Lifetime budget',
    many: 'lifetime budgets',
    kind: 'money',
    level: 'campaigns',
    shownAt: [],
    range: ({ minimumLifetimeBudget }) => ({ least: minimumLifetimeBudget, most: 1e12, step: 10_000 }),
    read: ({ campaigns }, place) => campaigns[place]!.fields.lifetime_budget ?? null,
    column: 'lifetime_budget',
  },
  {
    entity: 'campaign',
    name: 'end_date',
    label: 'End date',
    many: 'end dates',
    kind: 'day',
    level: 'campaigns',
    shownAt: belowCampaign,
    optional: true,
    read: ({ campaigns }, place) => campaigns[place]!.endDate,
    column: 'end_date',
  },
  {
    entity: 'campaign',
    name: 'strategy',
    label: 'Strategy',
    many: 'strategies',
    kind: 'choice',
    level: 'campaigns',
    shownAt: belowCampaign,
    choices: ['fixed', 'down_only', 'up_and_down'],
    read: ({ campaigns }, place) => campaigns[place]!.strategy,
    column: 'strategy',
  },
  {
    entity: 'placement_modifier',
    name: 'modifier',
    label: 'Modifier, %',
    many: 'modifiers',
    kind: 'percent',
    level: 'placements',
    shownAt: [],
    range: ({ maximumModifier }) => ({ least: 0, most: maximumModifier, step: 1 }),
    read: ({ placements }, place) => placements[place]!.modifier,
    column: 'modifier',
  },
  {
    entity: 'campaign',
    name: 'status',
    label: 'Status',
    many: 'campaigns',
    kind: 'status',
    level: 'campaigns',
    shownAt: [],
    choices: statuses,
    read: ({ campaigns }, place) => campaigns[place]!.status,
    column: 'status',
  },
  {
    entity: 'ad_group',
    name: 'status',
    label: 'Status',
    many: 'ad groups',
    kind: 'status',
    level: 'ad_groups',
    shownAt: [],
    choices: statuses,
    read: ({ adGroups }, place) => adGroups[place]!.status,
    column: 'status',
  },
  {
    entity: 'target',
    name: 'status',
    label: 'Status',
    many: 'targets',
    kind: 'status',
    level: 'targets',
    shownAt: ['terms'],
    choices: statuses,
    read: ({ targets }, place) => targets[place]!.status,
    column: 'status',
  },
  {
    entity: 'negative',
    name: 'status',
    label: 'Status',
    many: 'negatives',
    kind: 'status',
    level: 'negatives',
    shownAt: [],
    choices: ['archived'],
    read: ({ negatives }, place) => negatives[place]!.status,
    column: 'status',
  },
];

/** What lines set and no table edits: names stand in columns of their own, schedules in Spend, rules in Kits. */
const byLinesOnly: readonly Field[] = [
  {
    entity: 'campaign',
    name: 'name',
    label: 'Name',
    many: 'names',
    kind: 'text',
    level: 'campaigns',
    shownAt: [],
    read: ({ campaigns }, place) => campaigns[place]!.name,
    column: 'name',
  },
  {
    entity: 'campaign',
    name: 'schedule',
    label: 'Schedule',
    many: 'schedules',
    kind: 'schedule',
    level: 'campaigns',
    shownAt: [],
    optional: true,
    read: ({ campaigns }, place) => campaigns[place]!.fields.schedule ?? null,
    column: 'schedule',
  },
  {
    entity: 'ad_group',
    name: 'rule',
    label: 'Rule of its products',
    many: 'rules of products',
    kind: 'rule',
    level: 'ad_groups',
    shownAt: [],
    read: ({ adGroups }, place) => adGroups[place]!.fields.rule ?? null,
    column: 'rule',
  },
];

/** Everything that a line may set. */
export const lineFields: readonly Field[] = [...fields, ...byLinesOnly];

/** The field that a line of this entity sets; null for what is no field of it. */
export const fieldOf = (entity: string, name: string): Field | null =>
  lineFields.find(
    (field) => field.entity === entity && (field.name === name || entity === 'placement_modifier'),
  ) ?? null;

/** What can be changed at a level, the most usual first. */
export const fieldsAt = (level: Level): Field[] => fields.filter((field) => field.level === level);

/** A field by its name at the level where it is edited; null where it is not. */
export const fieldAt = (level: Level, name: string): Field | null =>
  fields.find((field) => field.level === level && field.name === name) ?? null;

/** The field that a level shows under a name: its own, else that of the object above. */
export const fieldShownAt = (level: Level, name: string): Field | null =>
  fieldAt(level, name) ??
  fields.find((field) => field.name === name && field.shownAt.includes(level)) ??
  null;

/** Names of fields whose values are numbers, and of those that are set to a word or a day. */
export const amountFields = unique(({ kind }) => kind === 'money' || kind === 'percent');
export const choiceFields = unique(({ kind }) => kind === 'day' || kind === 'status' || kind === 'choice');

function unique(wanted: (field: Field) => boolean): string[] {
  return [...new Set(fields.filter(wanted).map(({ name }) => name))];
}

const levelsOf = (name: string): string =>
  fields
    .filter((field) => field.name === name)
    .map(({ level }) => level.replace('_', ' '))
    .join(' or ');

/** Why a field cannot be edited at a level, as a sentence; null when it can. */
export const whyNotAt = (level: Level, name: string): string | null =>
  fieldAt(level, name)
    ? null
    : `“${name.replace('_', ' ')}” is edited at the level of ${levelsOf(name)}, not of ${level.replace('_', ' ')}.`;

/** Characters of a name. */
const longestText = 120;

/**
 * What is wrong with a new value, as a sentence; null when the marketplace would take it.
 *
 * @param value As it is kept; null takes the value away.
 */
export function valueProblem(field: Field, value: string | null, limits: FieldLimits): string | null {
  const name = field.kind === 'status' ? 'status' : field.label.replace(', %', '').toLowerCase();
  if (value === null || value === '')
    return field.optional ? null : `${article(name)} ${name} cannot be taken away.`;
  switch (field.kind) {
    case 'day':
      if (!isDay(value)) return `“${value}” is no day: days are written as 2026-11-05.`;
      return limits.today !== null && value < limits.today
        ? `${value} has passed: the account’s day is ${limits.today}.`
        : null;
    case 'text':
      return value.trim() === '' || value.length > longestText
        ? `A ${name} has 1 to ${longestText} characters.`
        : null;
    case 'schedule':
      return readSchedule(value) === null
        ? `“${value}” is no schedule: parts like “sunday 0-23 70” (weekday, first to last hour, per cent of the bid), divided by semicolons.`
        : null;
    case 'rule':
      return readRule(value) === null
        ? `“${value}” is no rule: a JSON object, as {"category": "crocks"}.`
        : null;
    case 'status':
    case 'choice':
      return (field.choices ?? []).includes(value)
        ? null
        : `“${value}” is none of ${(field.choices ?? []).join(', ')}.`;
    default: {
      const { least, most, step } = field.range!(limits);
      const number = Number(value);
      if (Number.isFinite(number) && number >= least && number <= most && number % step === 0) return null;
      const text = (n: number) => valueText(field, String(n));
      return most >= 1e12
        ? `${article(name)} ${name} is at least ${text(least)}, in steps of ${text(step)}.`
        : `${article(name)} ${name} lies between ${text(least)} and ${text(most)}, in steps of ${text(step)}.`;
    }
  }
}

const article = (word: string): string => (/^[aeiou]/.test(word) ? 'An' : 'A');

/** A value as people read it; nothing reads as "none". */
export function valueText(field: Field | null, value: string | null): string {
  if (value === null || value === '') return field?.optional ? 'none' : '';
  if (field?.kind === 'money') return money(Number(value));
  if (field?.kind === 'choice') return value.replaceAll('_', ' ');
  if (field?.kind === 'schedule') return scheduleSaid(readSchedule(value) ?? flat());
  if (field?.kind === 'rule') return ruleSaid(readRule(value) ?? {});
  return field?.kind === 'percent' ? `${value} %` : value;
}

/** A value as files and marketplaces write it: money in units of its currency. */
export const toUnits = (field: Field | null, value: string | null): string | null =>
  value !== null && field?.kind === 'money' ? String(units(Number(value))) : value;

/** The other way round. Null for what is no number where one is wanted; `read` reads numbers as the file writes them. */
export function fromUnits(
  field: Field | null,
  text: string | null,
  read: (text: string) => number | null,
): string | null {
  if (text === null || (field?.kind !== 'money' && field?.kind !== 'percent')) return text;
  const number = read(text);
  if (number === null) return null;
  return String(field.kind === 'money' ? micros(number) : number);
}
