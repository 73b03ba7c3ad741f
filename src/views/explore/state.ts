import { levels, type Level } from '../../core/account/levels.ts';
import { readColumn } from '../../core/explore/columns.ts';
import { compile, ConditionError, type Condition } from '../../core/explore/conditions.ts';
import type { AddressProblem } from '../../ui/shell/AddressNote.tsx';
import { usualColumns, type SliceBody } from '../../core/explore/slices.ts';
import { setUrl } from '../../ui/hooks/useUrlState.ts';

/** What Explore shows stands in the address: a link shows a colleague the same, Back works. */

/** A column as it stands in a table: `!` before it pins it, `:120` after it is its width. */
export interface ShownColumn {
  ref: string;
  width: number | null;
  pinned: boolean;
}

/** The levels as one goes down them: what hangs on a rung stands right after it. */
export const ladder: readonly Level[] = [
  'account',
  'budget_groups',
  'products',
  'campaigns',
  'placements',
  'ad_groups',
  'negatives',
  'targets',
  'terms',
];

export interface ExploreState {
  level: Level;
  within: { level: Level; id: string } | null;
  where: Condition | null;
  columns: ShownColumn[];
  sort: string | null;
  descending: boolean;
}

export const columnToken = ({ ref, width, pinned }: ShownColumn): string =>
  `${pinned ? '!' : ''}${ref}${width === null ? '' : `:${width}`}`;

function readToken(token: string, level: Level): ShownColumn | null {
  const [, pin = '', ref = '', width = ''] = /^(!?)([^:]+)(?::(\d+))?$/.exec(token) ?? [];
  if (!readColumn(ref, level)) return null;
  return {
    ref,
    pinned: pin === '!',
    width: width === '' ? null : Math.max(40, Math.min(600, Number(width))),
  };
}

const usual = (level: Level): ShownColumn[] =>
  usualColumns[level].map((ref) => ({ ref, width: null, pinned: false }));

function readWhere(text: string | null): Condition | null {
  if (!text) return null;
  try {
    return JSON.parse(text) as Condition;
  } catch {
    return null;
  }
}

/** A condition that this level can test; null for none. */
function usableWhere(text: string | null, level: Level): Condition | null {
  const where = readWhere(text);
  try {
    if (where) compile(where, level, () => () => null);
    return where;
  } catch {
    return null;
  }
}

/** The state an address means; what it does not say is as usual, what cannot be read is left out. */
export function readState(search: string): ExploreState {
  const params = new URLSearchParams(search);
  const level = levels.find((one) => one === params.get('level')) ?? 'campaigns';
  const [above, ...id] = (params.get('in') ?? '').split(':');
  const inside = levels.find((one) => one === above);
  const chosen = (params.get('cols') ?? '')
    .split(',')
    .map((token) => readToken(token, level))
    .filter((column) => column !== null);
  const sort = params.get('sort') ?? (level === 'negatives' ? 'name' : '-spend');
  const sorted = sort.replace(/^-/, '');
  return {
    level,
    within: inside && id.length > 0 ? { level: inside, id: id.join(':') } : null,
    where: usableWhere(params.get('where'), level),
    columns: chosen.length > 0 ? chosen : usual(level),
    sort: readColumn(sorted, level) ? sorted : null,
    descending: sort.startsWith('-'),
  };
}

/** What of an address cannot be read, by its name. */
export function addressProblems(search: string): AddressProblem[] {
  const params = new URLSearchParams(search);
  const found: AddressProblem[] = [];
  const tell = (name: string, problem: string) => found.push({ name, problem });
  const short = (text: string) => (text.length > 40 ? `${text.slice(0, 40)}…` : text);
  const name = params.get('level');
  if (name !== null && !levels.some((one) => one === name))
    tell('level', `There is no level “${short(name)}”; there are ${levels.join(', ')}.`);
  const { level } = readState(search);
  const above = params.get('in');
  if (above !== null && !levels.some((one) => above.startsWith(`${one}:`)))
    tell('in', `“${short(above)}” names no place: it is written as campaigns:12.`);
  const where = params.get('where');
  if (where) {
    const condition = readWhere(where);
    try {
      if (condition === null) throw new ConditionError('It is no condition.', '');
      compile(condition, level, () => () => null);
    } catch (error) {
      const { message, path } =
        error instanceof ConditionError ? error : { message: 'It is no condition.', path: '' };
      tell('where', path === '' ? message : `${message} (at ${path})`);
    }
  }
  const columns = (params.get('cols') ?? '').split(',').filter((token) => token !== '');
  const unknown = columns.filter((token) => readToken(token, level) === null);
  if (unknown.length > 0)
    tell('cols', `There is no column ${unknown.map((one) => `“${short(one)}”`).join(', ')} here.`);
  const sort = params.get('sort')?.replace(/^-/, '');
  if (sort && !readColumn(sort, level)) tell('sort', `There is no column “${short(sort)}” to sort by.`);
  return found;
}

/** Conditions with an empty stack are none. */
const isEmpty = (where: Condition | null): boolean =>
  where === null || ('all' in where && where.all.length === 0) || ('any' in where && where.any.length === 0);

/** What the address says of a state: null takes a parameter off it. What is not told stays as it is. */
export function addressOf(change: Partial<ExploreState>): Record<string, string | null> {
  const values: Record<string, string | null> = {};
  if (change.level !== undefined) values.level = change.level;
  if (change.within !== undefined) values.in = change.within && `${change.within.level}:${change.within.id}`;
  if (change.where !== undefined) values.where = isEmpty(change.where) ? null : JSON.stringify(change.where);
  if (change.columns !== undefined) values.cols = change.columns.map(columnToken).join(',') || null;
  if (change.sort !== undefined)
    values.sort = change.sort === null ? null : `${change.descending ? '-' : ''}${change.sort}`;
  return values;
}

export const writeState = (change: Partial<ExploreState>, push = false): void =>
  setUrl(addressOf(change), push);

/** Another level: columns and sorting as usual there; conditions stay as far as that level has their columns. */
export function toLevel(state: ExploreState, level: Level, within = state.within): void {
  writeState({ level, within, columns: [], sort: null, where: keepable(state.where, level) }, true);
}

function keepable(where: Condition | null, level: Level): Condition | null {
  if (where === null) return null;
  const keep = (list: Condition[]) =>
    list.map((one) => keepable(one, level)).filter((one): one is Condition => !isEmpty(one));
  if ('all' in where) return { all: keep(where.all) };
  if ('any' in where) return { any: keep(where.any) };
  const known = readColumn(where.column, level) && (!where.times || readColumn(where.times, level));
  return known ? where : null;
}

export const applySlice = (body: SliceBody): void =>
  writeState(
    {
      ...body,
      columns: body.columns.map((ref) => ({ ref, width: null, pinned: false })),
    },
    true,
  );

/** What a row opens into, and where. Null for what has nothing below it. */
export function below(level: Level, key: string): { level: Level; within: ExploreState['within'] } | null {
  switch (level) {
    case 'account':
      return { level: 'campaigns', within: null };
    case 'products':
    case 'budget_groups':
      return { level: 'campaigns', within: { level, id: key } };
    case 'campaigns':
      return { level: 'targets', within: { level, id: key } };
    case 'placements':
      return { level: 'targets', within: { level: 'campaigns', id: key.split(':')[0]! } };
    case 'ad_groups':
      return { level: 'targets', within: { level, id: key } };
    case 'targets':
      return { level: 'terms', within: { level, id: key } };
    default:
      return null;
  }
}
