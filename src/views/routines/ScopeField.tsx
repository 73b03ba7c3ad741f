import Autocomplete from '@mui/material/Autocomplete';
import TextField from '@mui/material/TextField';
import type { RoutinesAnswer } from '../../answers/routines.ts';
import type { Routine, RoutineScope } from '../../core/routines/routine.ts';
import { Choice } from '../../ui/parts/fields.tsx';

const scopeNames = {
  account: 'the whole account',
  products: 'some products',
  campaigns: 'some campaigns',
  budget_groups: 'budget groups',
  slice: 'a saved slice',
} as const;

/** Names shown of what may be chosen: more are found by typing. */
const mostShown = 200;

/** Where a routine acts. */
export function ScopeField({
  draft: { scope },
  choices,
  onChange,
}: {
  draft: Routine;
  choices: RoutinesAnswer['choices'];
  onChange: (scope: RoutineScope) => void;
}) {
  const list =
    scope.of === 'products'
      ? choices.products
      : scope.of === 'campaigns'
        ? choices.campaigns
        : scope.of === 'budget_groups'
          ? choices.budgetGroups
          : [];
  const names = new Map(list.map(({ key, name }) => [key, name]));
  const choose = (of: RoutineScope['of']) => {
    const slice = choices.slices[0];
    if (of === 'account') onChange({ of });
    else if (of !== 'slice')
      onChange({ of, keys: of === 'budget_groups' ? choices.budgetGroups.map(({ key }) => key) : [] });
    else if (slice) onChange({ of, id: slice.key, meaning: slice.meaning });
  };
  return (
    <>
      It acts in{' '}
      <Choice
        aria-label="Where it acts"
        value={scope.of}
        onChange={({ target }) => choose(target.value as RoutineScope['of'])}
      >
        {(Object.keys(scopeNames) as RoutineScope['of'][]).map((of) => (
          <option key={of} value={of}>
            {scopeNames[of]}
          </option>
        ))}
      </Choice>
      {scope.of === 'slice' && (
        <>
          {': '}
          <Choice
            aria-label="Slice"
            value={scope.id}
            onChange={({ target }) => {
              const slice = choices.slices.find(({ key }) => key === target.value)!;
              onChange({ of: 'slice', id: slice.key, meaning: slice.meaning });
            }}
          >
            {choices.slices.every(({ key }) => key !== scope.id) && <option value={scope.id}>gone</option>}
            {choices.slices.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </Choice>
        </>
      )}
      .
      {'keys' in scope && (
        <Autocomplete
          multiple
          size="small"
          limitTags={4}
          options={list.map(({ key }) => key)}
          value={scope.keys}
          getOptionLabel={(key) => names.get(key) ?? `${key} (gone)`}
          filterOptions={(options, { inputValue }) =>
            options
              .filter((key) => (names.get(key) ?? '').toLowerCase().includes(inputValue.toLowerCase()))
              .slice(0, mostShown)
          }
          onChange={(_, keys) => onChange({ of: scope.of, keys })}
          renderInput={(params) => <TextField {...params} label={scopeNames[scope.of]} />}
          sx={{ my: 1 }}
        />
      )}
    </>
  );
}
