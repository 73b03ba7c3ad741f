import Autocomplete from '@mui/material/Autocomplete';
import Link from '@mui/material/Link';
import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useMemo, useState, type ReactNode } from 'react';
import type { GoalPlace, GoalsAnswer, GoalValues } from '../../answers/goals.ts';
import { largestStep, stances, type Stance } from '../../core/bids/guards.ts';
import { money, percent, significant } from '../../core/metrics/format.ts';
import { micros, units } from '../../core/metrics/money.ts';
import { get } from '../../ui/api.ts';
import { at } from '../../ui/address.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Failed, ListHead, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { useList } from '../../ui/list/useList.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { Figure } from '../../ui/parts/Figure.tsx';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { valuesOf } from '../../ui/undo.ts';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { digitsOf } from './fields.tsx';
import { GoalPanel } from './GoalPanel.tsx';
import { methodList, methodNames, ofScope, scopeRows, type ScopeRow } from './rows.ts';

export const goalsHelp: KeyHelp[] = [
  { keys: ['j', 'k'], does: 'next, previous scope' },
  { keys: ['Tab'], does: 'to the fields of the scope' },
];

/** What changes a goal: what is said of it, or null to take it away. */
export type SaveGoal = (row: ScopeRow, values: Partial<GoalValues> | null, said?: string) => Promise<boolean>;

const steps = (stance: Stance): string => {
  const { up, down } = largestStep[stance];
  return `× ${significant(up)} up, ÷ ${significant(1 / down)} down`;
};

const soft = (text: string) => <span className="soft">{text}</span>;

function columnsOf(answer: GoalsAnswer, save: SaveGoal): ListColumn<ScopeRow>[] {
  const whose = (row: ScopeRow, name: keyof ScopeRow['rules']['from']) =>
    row.goal?.[name] == null && row.scope !== 'account' ? ofScope(row.rules.from[name], answer) : '';
  return [
    {
      id: 'where',
      label: 'Where',
      width: 'minmax(150px, 1.4fr)',
      cell: (row) => <b>{row.title}</b>,
      below: (row) => row.detail,
    },
    {
      id: 'margin',
      label: 'Break-even',
      width: '68px',
      isNumber: true,
      explains: 'break_even',
      cell: ({ product }) => (product?.margin == null ? soft('–') : percent(product.margin)),
    },
    {
      id: 'target',
      label: 'Target ACOS',
      width: '96px',
      isNumber: true,
      explains: 'target_acos',
      cell: (row) => {
        const { goal, rules, title } = row;
        const own = goal?.objective === 'acos' ? goal.targetAcos : null;
        return (
          <NumberField
            label={`Target ACOS of ${title}, per cent`}
            value={own === null ? null : own * 100}
            placeholder={(rules.targetAcos * 100).toFixed(digitsOf(rules.targetAcos))}
            suffix="%"
            digits={digitsOf(own ?? 0)}
            onCommit={(value) => value !== null && void save(row, { targetAcos: value / 100 })}
          />
        );
      },
      below: ({ rules, goal, product, scope }) => {
        const { objective, targetMargin } = rules;
        if (objective === 'margin') return `leaves ${percent(targetMargin)} after ads`;
        if (objective === 'profit') return 'most profit';
        if (product?.margin != null && rules.targetAcos > product.margin)
          return <span className="over">above break-even</span>;
        return goal?.objective == null && scope !== 'account' ? ofScope(rules, answer) : '';
      },
    },
    ...(['bidFloor', 'bidCeiling'] as const).map((field): ListColumn<ScopeRow> => ({
      id: field,
      label: field === 'bidFloor' ? 'Floor' : 'Ceiling',
      width: '60px',
      isNumber: true,
      explains: field === 'bidFloor' ? 'floor' : 'ceiling',
      cell: (row) => {
        const rules = row.rules[field];
        return (
          <NumberField
            label={`${field === 'bidFloor' ? 'Bid floor' : 'Bid ceiling'} of ${row.title}`}
            value={row.goal?.[field] == null ? null : units(row.goal[field])}
            placeholder={rules === null ? (field === 'bidFloor' ? '0.04' : 'none') : money(rules)}
            digits={2}
            onCommit={(value) => void save(row, { [field]: value === null ? null : micros(value) })}
          />
        );
      },
      below: (row) => (row.rules.from[field] ? whose(row, field) : ''),
    })),
    {
      id: 'stance',
      label: 'Steps',
      width: '102px',
      explains: 'steps',
      cell: (row) => (
        <Choice
          aria-label={`Steps of ${row.title}`}
          value={row.goal?.stance ?? ''}
          title={steps(row.rules.stance)}
          onChange={({ target }) => void save(row, { stance: (target.value || null) as Stance | null })}
          sx={{ width: '100%', height: 20, border: 0, p: 0, bgcolor: 'transparent' }}
        >
          <option value="">{row.rules.stance}</option>
          {stances.map((stance) => (
            <option key={stance} value={stance} title={steps(stance)}>
              {stance}
            </option>
          ))}
        </Choice>
      ),
      below: (row) => whose(row, 'stance') || steps(row.rules.stance),
    },
    {
      id: 'method',
      label: 'Method',
      width: '122px',
      explains: 'method',
      cell: (row) => (
        <Choice
          aria-label={`Method of ${row.title}`}
          value={row.goal?.method ?? ''}
          onChange={({ target }) =>
            void save(row, { method: (target.value || null) as GoalValues['method'] })
          }
          sx={{ width: '100%', height: 20, border: 0, p: 0, bgcolor: 'transparent' }}
        >
          <option value="">{methodNames[row.rules.method]}</option>
          {methodList.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Choice>
      ),
      below: (row) => whose(row, 'method'),
    },
    {
      id: 'theta',
      label: 'θ',
      width: '48px',
      isNumber: true,
      explains: 'theta',
      cell: ({ goal }) => (goal?.theta ? <b>{significant(goal.theta.value)}</b> : soft('–')),
    },
  ];
}

/** Goals of the account, its products, and whatever has one of its own; at the right all of the one in focus. */
export function GoalsList({ tabs }: { tabs: ReactNode }) {
  const { changeGoal } = useAct();
  const [chosen, setChosen] = useUrlState('scope');
  const goals = useQuery({ queryKey: ['goals'], queryFn: () => get<GoalsAnswer>('/api/goals') });
  const answer = goals.data;
  /** A place that was chosen for a goal of its own, and has none yet. */
  const [added, setAdded] = useState<GoalPlace[]>([]);
  const rows = useMemo(() => (answer ? rowsOf(answer, added) : []), [answer, added]);
  const list = useList(rows, ({ id }) => id, { about: 'goals' });
  if (!answer)
    return goals.isError ? (
      <Failed error={goals.error} onRetry={() => void goals.refetch()} />
    ) : (
      <Waiting>Reading the goals.</Waiting>
    );
  const save: SaveGoal = (row, values, said = 'Goal kept. Everything is judged anew.') =>
    changeGoal({ scope: row.scope, key: row.key, before: valuesOf(row.goal ?? undefined) }, values, said);
  const account = answer.goals.find(({ scope }) => scope === 'account')!;
  const shown = rows.find(({ id }) => id === chosen) ?? list.row ?? rows[0]!;
  const others = answer.goals.length - 1;
  return (
    <ListPage
      head={
        <ListHead
          title="Goals"
          tabs={tabs}
          name="goals"
          sentence={
            <>
              The account aims at{' '}
              <Figure name="target_acos" label="Target ACOS">
                <b>{percent(account.targetAcos)}</b>
              </Figure>
              ; <b>{others}</b> {others === 1 ? 'override has its' : 'overrides have their'} own. A changed
              goal judges every term and target anew at once.
            </>
          }
          filters={
            <>
              <PlaceChoice
                onChoose={(place) => {
                  setAdded((old) => [...old, place]);
                  setChosen(`${place.scope}:${place.key}`);
                }}
              />
              <Link variant="body2" href={at('/data')}>
                Load goals or costs from a file
              </Link>
              <Link variant="body2" href={at('/api/goals/file')} download>
                Save goals
              </Link>
              <Link variant="body2" href={at('/api/goals/file?of=costs')} download>
                Save costs
              </Link>
            </>
          }
        />
      }
      panel={
        <GoalPanel
          key={shown.id}
          row={shown}
          answer={answer}
          save={save}
          onRemove={() =>
            void save(shown, null, 'Override removed. The wider goal rules again.').then((done) => {
              if (done) setAdded((old) => old.filter(({ scope, key }) => `${scope}:${key}` !== shown.id));
            })
          }
        />
      }
    >
      <ListTable
        label="Goals"
        nouns="scopes"
        followsFields
        rows={rows}
        columns={columnsOf(answer, save)}
        keyOf={({ id }) => id}
        nameOf={({ title }) => title}
        list={{
          ...list,
          focus: rows.indexOf(shown),
          moveTo: (index) => {
            list.moveTo(index);
            setChosen(rows[index]?.id ?? null);
          },
        }}
      />
    </ListPage>
  );
}

/** The scopes of the account, and places that were chosen and have no goal yet. */
function rowsOf(answer: GoalsAnswer, added: readonly GoalPlace[]): ScopeRow[] {
  const known = new Set(answer.goals.map(({ scope, key }) => `${scope}:${key}`));
  const empty = added
    .filter(({ scope, key }) => !known.has(`${scope}:${key}`))
    .map((place) => ({
      ...place,
      objective: null,
      targetAcos: null,
      targetMargin: null,
      bidFloor: null,
      bidCeiling: null,
      stance: null,
      method: null,
      ladder: null,
      guards: null,
      aboveOne: false,
      theta: null,
    }));
  return scopeRows({ ...answer, goals: [...answer.goals, ...empty] });
}

/** Finds a campaign or an ad group by its name, for a goal of its own. */
function PlaceChoice({ onChoose }: { onChoose: (place: GoalPlace) => void }) {
  const [text, setText] = useState('');
  const asked = useDeferredValue(text);
  const places = useQuery({
    queryKey: ['goal places', asked],
    queryFn: () => get<GoalPlace[]>(`/api/goals/places?text=${encodeURIComponent(asked)}`),
    placeholderData: (previous) => previous,
  });
  return (
    <Autocomplete
      size="small"
      sx={{ width: 320, '& .MuiInputBase-root': { height: 30, py: 0 } }}
      options={places.data ?? []}
      filterOptions={(all) => all.filter(({ name }) => name.toLowerCase().includes(text.toLowerCase()))}
      value={null}
      inputValue={text}
      blurOnSelect
      loading={places.isFetching}
      loadingText="Looking for it."
      noOptionsText="No campaign or ad group is called so."
      getOptionKey={({ scope, key }) => `${scope}:${key}`}
      getOptionLabel={({ name }) => name}
      renderOption={({ key, ...props }, { name, scope, campaign }) => (
        <li key={key} {...props}>
          <span>
            {name}
            <br />
            <small>{scope === 'campaign' ? 'campaign' : `ad group in ${campaign}`}</small>
          </span>
        </li>
      )}
      onInputChange={(_, value, reason) => setText(reason === 'reset' ? '' : value)}
      onChange={(_, place) => place && onChoose(place)}
      renderInput={(props) => (
        <TextField
          {...props}
          placeholder="Goal for a campaign or an ad group"
          aria-label="Goal for a place"
        />
      )}
    />
  );
}
