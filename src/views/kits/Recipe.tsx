import Button from '@mui/material/Button';
import { useRef, useState } from 'react';
import type { DeskAnswer } from '../../answers/kits.ts';
import type { KitBody } from '../../core/kits/kit.ts';
import type { Recipe } from '../../core/kits/recipe.ts';
import { send } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { Row } from './parts.tsx';
interface RecipeChoiceProps {
  body: KitBody;
  desk: DeskAnswer;
  onChoose: (recipe: KitBody['recipe']) => void;
}

/** The recipe that the kit follows: one of those that there are, or what was made of one. */
export function RecipeChoice({ body, desk, onChoose }: RecipeChoiceProps) {
  const known = desk.recipes.find(({ recipe }) => recipe.name === body.recipe.name);
  return (
    <Choice
      aria-label="Recipe"
      value={body.recipe.name}
      style={{ width: 150 }}
      onChange={(event) => {
        const chosen = desk.recipes.find(({ recipe }) => recipe.name === event.target.value);
        if (chosen) onChoose(chosen.recipe);
      }}
    >
      {!known && <option value={body.recipe.name}>{body.recipe.name}</option>}
      {desk.recipes.map(({ recipe: { name } }) => (
        <option key={name} value={name}>
          {name}
        </option>
      ))}
    </Choice>
  );
}

/** Keeps the recipe as it stands here under a name of its own, saves it as JSON, and reads one. */
export function RecipeFiles({
  recipe,
  desk,
  isEdited,
  onEdit,
  onChoose,
}: {
  recipe: Recipe;
  desk: DeskAnswer;
  isEdited: boolean;
  onEdit: () => void;
  onChoose: (recipe: Recipe) => void;
}) {
  const { act, failed } = useAct();
  const [name, setName] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const refresh = [['kits', 'desk']];
  const own = desk.recipes.some((one) => one.own && one.recipe.name === recipe.name);
  const keep = async (one: Recipe) => {
    const isDone = await act(() => send('PUT', '/api/kits/recipes', one), `Recipe “${one.name}” kept.`, {
      refresh,
    });
    if (isDone) onChoose(one);
  };
  const read = async (chosen: File) => {
    try {
      await keep(JSON.parse(await chosen.text()) as Recipe);
    } catch (error) {
      failed(new Error(`${chosen.name} holds no recipe: ${(error as Error).message}`));
    }
  };
  const save = () => {
    const url = URL.createObjectURL(
      new Blob([JSON.stringify(recipe, null, 2)], { type: 'application/json' }),
    );
    Object.assign(document.createElement('a'), { href: url, download: `${recipe.name}.json` }).click();
    URL.revokeObjectURL(url);
  };
  if (name !== null)
    return (
      <Row>
        <Field
          aria-label="Name of the recipe"
          autoFocus
          value={name}
          maxLength={80}
          style={{ flex: 1 }}
          onChange={({ target }) => setName(target.value)}
          onKeyDown={({ key }) => key === 'Escape' && setName(null)}
        />
        <Button
          size="small"
          variant="outlined"
          disabled={name.trim() === ''}
          onClick={() => (void keep({ ...recipe, name: name.trim() }), setName(null))}
        >
          Keep
        </Button>
      </Row>
    );
  return (
    <Row>
      <Button size="small" aria-pressed={isEdited} onClick={onEdit}>
        {isEdited ? 'Close parts' : 'Edit parts'}
      </Button>
      <Button size="small" onClick={() => setName(own ? recipe.name : `${recipe.name}, mine`)}>
        Keep as recipe
      </Button>
      <Button size="small" onClick={save}>
        Save as JSON
      </Button>
      <Button size="small" onClick={() => file.current?.click()}>
        Load
      </Button>
      <input
        ref={file}
        type="file"
        accept=".json,application/json"
        hidden
        aria-label="File of a recipe"
        onChange={(event) => {
          const [chosen] = event.target.files ?? [];
          if (chosen) void read(chosen);
          event.target.value = '';
        }}
      />
    </Row>
  );
}
