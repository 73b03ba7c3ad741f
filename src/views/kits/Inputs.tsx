import Box from '@mui/material/Box';
import { useCallback } from 'react';
import type { KitBody } from '../../core/kits/kit.ts';
import type { BudgetKind, Pacing } from '../../core/kits/types.ts';
import { counted } from '../../core/metrics/format.ts';
import { Area, Choice, Field } from '../../ui/parts/fields.tsx';
import { MoneyField } from '../../ui/parts/MoneyField.tsx';
import { Items } from './Items.tsx';
import { Keywords } from './Keywords.tsx';
import { Products } from './Products.tsx';
import { RecipeChoice, RecipeFiles } from './Recipe.tsx';
import { Categories } from './Categories.tsx';
import { Pictures } from './Pictures.tsx';
import { Part, Row, type InputsProps, type Panel } from './parts.tsx';

/** What goes into a kit, from the products down to its dates. */
export function Inputs({
  body,
  desk,
  grounds,
  checks,
  plans,
  change,
  panel,
  onPanel,
}: InputsProps & { panel: Panel | null; onPanel: (panel: Panel | null) => void }) {
  const set = useCallback((part: Partial<KitBody>) => change((old) => ({ ...old, ...part })), [change]);
  return (
    <Box
      role="region"
      aria-label="What goes in"
      tabIndex={0}
      sx={{
        width: 412,
        flexShrink: 0,
        overflowY: 'auto',
        px: 2.25,
        pb: 2,
        borderRight: 1,
        borderColor: 'divider',
      }}
    >
      <Part title="Kit">
        <Row>
          <Field
            aria-label="Name of the kit"
            value={body.name}
            maxLength={120}
            style={{ flex: 1 }}
            onChange={(event) => set({ name: event.target.value || ' ' })}
          />
          <RecipeChoice body={body} desk={desk} onChoose={(recipe) => set({ recipe, edits: {} })} />
        </Row>
        <RecipeFiles
          recipe={body.recipe}
          desk={desk}
          isEdited={panel === 'recipe'}
          onEdit={() => onPanel(panel === 'recipe' ? null : 'recipe')}
          onChoose={(recipe) => set({ recipe, edits: {} })}
        />
        <Row>
          <label>
            Budget{' '}
            <MoneyField
              label="Budget of the kit"
              value={body.budget}
              onChange={(budget) => set({ budget: budget ?? 0 })}
            />
          </label>
          <Choice
            aria-label="Kind of budget"
            value={body.budgetKind}
            onChange={({ target }) => set({ budgetKind: target.value as BudgetKind, edits: {} })}
          >
            <option value="daily">a day</option>
            <option value="lifetime">in all</option>
          </Choice>
          <Choice
            aria-label="Pacing"
            value={body.pacing}
            onChange={({ target }) => set({ pacing: target.value as Pacing })}
          >
            <option value="as_it_comes">as it comes</option>
            <option value="even">parted evenly</option>
          </Choice>
        </Row>
        <Row>
          <label htmlFor="kit-pattern">Names</label>
          <Field
            id="kit-pattern"
            aria-label="Name pattern"
            title="Tokens: {code}, {part}, {purpose}, {sku}, {number}"
            value={body.recipe.pattern}
            style={{ flex: 1, minWidth: 0 }}
            onChange={(event) => set({ recipe: { ...body.recipe, pattern: event.target.value || ' ' } })}
          />
        </Row>
        <Row>
          <label>
            From{' '}
            <Field
              type="date"
              value={body.startDate ?? ''}
              min={desk.today ?? undefined}
              onChange={(event) => set({ startDate: event.target.value || null })}
            />
          </label>
          <label>
            to{' '}
            <Field
              type="date"
              value={body.endDate ?? ''}
              min={body.startDate ?? desk.today ?? undefined}
              onChange={(event) => set({ endDate: event.target.value || null })}
            />
          </label>
          <label>
            <input
              type="checkbox"
              checked={body.startPaused}
              onChange={(event) => set({ startPaused: event.target.checked })}
            />{' '}
            start paused
          </label>
        </Row>
      </Part>
      <Products body={body} desk={desk} grounds={grounds} change={change} />
      <Keywords body={body} desk={desk} grounds={grounds} checks={checks} plans={plans} change={change} />
      <Items
        body={body}
        desk={desk}
        grounds={grounds}
        change={change}
        isPicking={panel === 'pages'}
        onPick={() => onPanel(panel === 'pages' ? null : 'pages')}
      />
      <Categories body={body} grounds={grounds} change={change} />
      {desk.limits.creatives.pictures > 0 && <Pictures body={body} desk={desk} change={change} />}
      <Part title="Excluded" hint="Phrases that no part of the kit is shown for, one a line.">
        <Area
          aria-label="Excluded phrases"
          rows={2}
          value={body.excluded.join('\n')}
          onChange={({ target }) => set({ excluded: target.value.split('\n').slice(0, 1000) })}
        />
        {desk.lists.map(({ listId, name, entries }) => (
          <label key={listId}>
            <input
              type="checkbox"
              checked={body.lists.includes(listId)}
              onChange={({ target }) =>
                set({
                  lists: target.checked
                    ? [...body.lists, listId]
                    : body.lists.filter((one) => one !== listId),
                })
              }
            />{' '}
            and the list “{name}”, {counted(entries.length, 'negative')}
          </label>
        ))}
      </Part>
    </Box>
  );
}
