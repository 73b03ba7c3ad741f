import Joi from 'joi';
import { writes } from '../../../../server/http/http.ts';
import { dropRecipe, recipeSchema, saveRecipe } from '../../../../server/kits/index.ts';

/** Keeps a recipe under its name. */
export const PUT = writes(recipeSchema, ({ accountId, body }) => saveRecipe(accountId, body));

const nothing = Joi.object({});

/** Takes a recipe of one's own away (?name). */
export const DELETE = writes(nothing, ({ accountId, query }) =>
  dropRecipe(accountId, query.get('name') ?? ''),
);
