import { CloseIcon } from '../../ui/icons.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import type { KitBody } from '../../core/kits/kit.ts';
import {
  automaticModes,
  partKinds,
  partStates,
  recipeProblems,
  usualPart,
  type FirstBidWay,
  type Part,
  type PartKind,
  type PartState,
  type Source,
} from '../../core/kits/recipe.ts';
import { percent } from '../../core/metrics/format.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { MoneyField } from '../../ui/parts/MoneyField.tsx';
import { stateNames, type SectionProps } from './parts.tsx';

const columns = '1fr 92px 92px 66px 88px 150px 108px 26px';

/** Where targets of a kind may come from. */
const sourcesOf: Record<PartKind, Partial<Record<Source, string>>> = {
  automatic: { modes: 'its modes' },
  category: { own_category: 'own or chosen categories' },
  broad: { kit: 'keywords of the kit', best: 'the best keyword' },
  phrase: { kit: 'keywords of the kit', best: 'the best keyword' },
  exact: { kit: 'keywords of the kit', best: 'the best keyword' },
  items: { kit: 'items of the kit', own_pages: 'own pages' },
};

const placements = {
  top_of_search: 'top',
  rest_of_search: 'rest',
  product_pages: 'pages',
  category_browse: 'categories',
};

type RecipePartsProps = Pick<SectionProps, 'body' | 'change'> & { onClose: () => void };

/** The parts of the recipe as the kit follows it; the plan below answers at once. */
export function RecipeParts({ body, change, onClose }: RecipePartsProps) {
  const { recipe } = body;
  const set = (parts: readonly Part[]) =>
    change((old: KitBody) => ({ ...old, recipe: { ...old.recipe, parts } }));
  const edit = (at: number, to: Partial<Part>) =>
    set(recipe.parts.map((part, i) => (i === at ? { ...part, ...to } : part)));
  const total = recipe.parts.reduce((sum, { share }) => sum + share, 0);
  return (
    <Box
      component="section"
      aria-label="Parts of the recipe"
      sx={{ pt: 1, pb: 1.5, borderBottom: 1, borderColor: 'text.primary' }}
    >
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1 }}>
        <Typography variant="h2">Parts of “{recipe.name}”</Typography>
        <Typography variant="caption" color="text.secondary" sx={{ flex: 1 }}>
          Kept with this kit; Keep as recipe keeps it for others.
        </Typography>
        <Button
          size="small"
          onClick={() =>
            set([
              ...recipe.parts,
              usualPart(freshName(recipe.parts), 'exact', total / recipe.parts.length || 1),
            ])
          }
        >
          Add a part
        </Button>
        <Button size="small" onClick={onClose}>
          Close parts
        </Button>
      </Box>
      {recipeProblems(recipe).map((text) => (
        <Typography key={text} variant="body2" role="alert" color="error">
          {text}
        </Typography>
      ))}
      <Box sx={{ ...row, color: 'text.secondary', fontSize: sizes.small }}>
        {['Part', 'Aims with', 'Purpose', 'Share', 'State', 'Targets are', 'First bid', ''].map((name) => (
          <span key={name}>{name}</span>
        ))}
      </Box>
      {recipe.parts.map((part, at) => (
        // A part is known by its place: its name is typed here.
        <PartRow
          key={at}
          part={part}
          total={total}
          onEdit={(to) => edit(at, to)}
          onRemove={() => set(recipe.parts.filter((_, i) => i !== at))}
        />
      ))}
    </Box>
  );
}

const row = {
  display: 'grid',
  gridTemplateColumns: columns,
  columnGap: 0.75,
  alignItems: 'center',
  py: 0.25,
} as const;

const freshName = (parts: readonly Part[]): string => {
  const known = new Set(parts.map(({ name }) => name));
  let number = parts.length + 1;
  while (known.has(`part ${number}`)) number++;
  return `part ${number}`;
};

interface PartRowProps {
  part: Part;
  total: number;
  onEdit: (to: Partial<Part>) => void;
  onRemove: () => void;
}

function PartRow({ part, total, onEdit, onRemove }: PartRowProps) {
  const { name, kind, firstBid } = part;
  const label = (what: string) => `${what} of ${name}`;
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', fontSize: sizes.table }}>
      <Box sx={row}>
        <Field
          aria-label={label('Name')}
          value={name}
          maxLength={60}
          style={{ width: '100%' }}
          onChange={({ target }) => onEdit({ name: target.value })}
        />
        <Choice
          aria-label={label('Kind')}
          value={kind}
          onChange={({ target }) => {
            const to = usualPart(name, target.value as PartKind, part.share);
            onEdit({ kind: to.kind, modes: to.modes, source: to.source, purpose: to.purpose });
          }}
        >
          {partKinds.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </Choice>
        <Field
          aria-label={label('Purpose')}
          value={part.purpose}
          maxLength={60}
          style={{ width: '100%' }}
          onChange={({ target }) => onEdit({ purpose: target.value })}
        />
        <Field
          type="number"
          min={0.01}
          step={0.05}
          aria-label={label('Share')}
          title={`${percent(part.share / total)} of the kit’s budget`}
          value={part.share}
          style={{ width: '100%' }}
          onChange={({ target }) => Number(target.value) > 0 && onEdit({ share: Number(target.value) })}
        />
        <Choice
          aria-label={label('State')}
          value={part.state}
          onChange={({ target }) => onEdit({ state: target.value as PartState })}
        >
          {partStates.map((one) => (
            <option key={one} value={one}>
              {stateNames[one]}
            </option>
          ))}
        </Choice>
        <Choice
          aria-label={label('Source')}
          value={part.source}
          onChange={({ target }) => onEdit({ source: target.value as Source })}
        >
          {Object.entries(sourcesOf[kind]).map(([id, text]) => (
            <option key={id} value={id}>
              {text}
            </option>
          ))}
        </Choice>
        <Choice
          aria-label={label('First bid')}
          value={firstBid.way}
          onChange={({ target }) => onEdit({ firstBid: waysOf[target.value as FirstBidWay['way']] })}
        >
          <option value="evidence">evidence</option>
          <option value="range">of the range</option>
          <option value="fixed">fixed</option>
        </Choice>
        <IconButton size="small" aria-label={`Remove ${name}`} onClick={onRemove}>
          <CloseIcon sx={{ fontSize: sizes.text }} />
        </IconButton>
      </Box>
      <Box
        sx={{
          display: 'flex',
          gap: 1,
          flexWrap: 'wrap',
          pb: 0.5,
          fontSize: sizes.small,
          color: 'text.secondary',
        }}
      >
        {firstBid.way === 'fixed' && (
          <label>
            bid{' '}
            <MoneyField
              label={label('Fixed bid')}
              value={firstBid.bid}
              width={58}
              onChange={(bid) => bid !== null && onEdit({ firstBid: { way: 'fixed', bid } })}
            />
          </label>
        )}
        {firstBid.way === 'range' && (
          <label>
            place in the suggested range, %{' '}
            <Field
              type="number"
              min={0}
              max={100}
              step={5}
              aria-label={label('Place in the range')}
              value={Math.round(firstBid.at * 100)}
              style={{ width: 56 }}
              onChange={({ target }) =>
                onEdit({
                  firstBid: { way: 'range', at: Math.min(100, Math.max(0, Number(target.value))) / 100 },
                })
              }
            />
          </label>
        )}
        {kind === 'automatic' &&
          automaticModes.map((mode) => (
            <label key={mode}>
              <input
                type="checkbox"
                aria-label={`${mode} in ${name}`}
                checked={part.modes.includes(mode)}
                onChange={({ target }) =>
                  onEdit({
                    modes: automaticModes.filter((one) =>
                      one === mode ? target.checked : part.modes.includes(one),
                    ),
                  })
                }
              />{' '}
              {mode}
            </label>
          ))}
        <span>Modifiers, %:</span>
        {Object.entries(placements).map(([id, text]) => (
          <label key={id}>
            {text}{' '}
            <Field
              type="number"
              min={0}
              max={900}
              step={5}
              aria-label={`Modifier of ${text} in ${name}`}
              value={part.modifiers[id] ?? 0}
              style={{ width: 46 }}
              onChange={({ target }) => {
                const { [id]: _, ...others } = part.modifiers;
                const value = Math.min(900, Math.max(0, Math.round(Number(target.value))));
                onEdit({ modifiers: value > 0 ? { ...others, [id]: value } : others });
              }}
            />
          </label>
        ))}
      </Box>
    </Box>
  );
}

const waysOf: Record<FirstBidWay['way'], FirstBidWay> = {
  evidence: { way: 'evidence' },
  range: { way: 'range', at: 0.5 },
  fixed: { way: 'fixed', bid: 500_000 },
};
