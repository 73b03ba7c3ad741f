import type { ReadKits } from '../../answers/kits.ts';
import { pastedKeywords } from '../../core/kits/keywords.ts';
import { usualKit, type KitBody } from '../../core/kits/kit.ts';
import { shippedRecipes, type Recipe } from '../../core/kits/recipe.ts';
import { isDay, type Day } from '../../core/metrics/days.ts';
import { micros, type Micros } from '../../core/metrics/money.ts';
import { getAccount } from '../account/account.ts';
import { limitsOf } from '../account/limits.ts';
import { productsOf } from '../account/queries.ts';
import { db } from '../db/connection.ts';
import { plainRows, type RowProblem } from '../imports/files/plain.ts';
import { readNumber } from '../imports/files/values.ts';
import { groundsOf } from './desk.ts';
import { recipesOf } from './queries.ts';

/** Kits as CSV (formats): a row a product. */

type Column =
  | 'sku'
  | 'recipe'
  | 'budget'
  | 'name_code'
  | 'keywords'
  | 'keywords_file'
  | 'start_date'
  | 'end_date'
  | 'state';

const mostRows = 200;
/** Terms that sold, taken where a row names no keywords. */
const mostProven = 40;

class Wrong extends Error {
  constructor(
    readonly column: Column,
    message: string,
  ) {
    super(message);
  }
}

type Told = Partial<Record<Column, string>>;

/** Reads a file of kits; rows that cannot be one are told, nothing is kept. */
export async function readKitsCsv(accountId: number, bytes: Uint8Array): Promise<ReadKits> {
  const rows = plainRows<Column>(bytes, {
    noun: 'kit',
    most: mostRows,
    needs: [['sku'], ['recipe'], ['budget']],
    hint: 'A file of kits has sku, recipe, budget, and name_code, keywords, start_date, end_date, state where wanted.',
  });
  const account = await getAccount(db(), accountId);
  const [products, own] = await Promise.all([productsOf(db(), accountId), recipesOf(db(), accountId)]);
  const recipes = new Map([...shippedRecipes, ...own].map((recipe) => [recipe.name.toLowerCase(), recipe]));
  const skus = new Map(
    products.flatMap((row) => [
      [row.sku.toLowerCase(), row.sku],
      [row.item_code.toLowerCase(), row.sku],
    ]),
  );
  const kits: KitBody[] = [];
  const problems: RowProblem[] = [];
  const seen = new Set<string>();
  for (const { record, line } of rows) {
    try {
      const kit = kitOfRow(record, skus, recipes);
      const key = `${kit.skus[0]} ${kit.recipe.name}`;
      if (seen.has(key)) throw new Wrong('sku', `${kit.skus[0]} has a kit of this recipe in an earlier row.`);
      seen.add(key);
      kits.push(kit);
    } catch (error) {
      if (!(error instanceof Wrong)) throw error;
      problems.push({ row: line, column: error.column, message: error.message });
    }
  }
  const grounds = new Map(
    (await groundsOf(accountId, [...new Set(kits.flatMap((kit) => kit.skus))])).map((one) => [one.sku, one]),
  );
  const itemCode = new RegExp(limitsOf(account).itemCode, 'iu');
  return {
    kits: kits.map((kit) => {
      const known = grounds.get(kit.skus[0]!);
      const sold = (known?.proven ?? []).filter(({ text }) => !itemCode.test(text)).slice(0, mostProven);
      return {
        ...kit,
        name: `${kit.codes[kit.skus[0]!] ?? known?.code ?? kit.skus[0]}: ${kit.recipe.name}`.slice(0, 120),
        keywords: kit.keywords.length > 0 ? kit.keywords : sold.map(({ text }) => ({ text, bid: null })),
      };
    }),
    problems,
  };
}

function kitOfRow(
  record: Told,
  skus: ReadonlyMap<string, string>,
  recipes: ReadonlyMap<string, Recipe>,
): KitBody {
  const text = (column: Column) => record[column]?.trim() ?? '';
  const sku = skus.get(text('sku').toLowerCase());
  if (sku === undefined) throw new Wrong('sku', `The account has no product “${text('sku')}”.`);
  const recipe = recipes.get(text('recipe').toLowerCase());
  if (!recipe) {
    const names = [...recipes.values()].map(({ name }) => `“${name}”`).join(', ');
    throw new Wrong('recipe', `There is no recipe “${text('recipe')}”: there are ${names}.`);
  }
  if (text('keywords_file') !== '')
    throw new Wrong(
      'keywords_file',
      'Other files are not read from here: put keywords into the column keywords, parted by semicolons.',
    );
  const startDate = dayIn(text('start_date'), 'start_date');
  const endDate = dayIn(text('end_date'), 'end_date');
  const code = text('name_code');
  return {
    ...usualKit,
    name: '',
    skus: [sku],
    recipe,
    budget: budgetIn(text('budget')),
    startDate,
    endDate,
    startPaused: stateIn(text('state')) === 'paused',
    keywords: pastedKeywords(text('keywords'))
      .slice(0, 2000)
      .map((keyword) => ({ text: keyword.slice(0, 400), bid: null })),
    codes: code === '' ? {} : { [sku]: code.slice(0, 80) },
  };
}

function budgetIn(text: string): Micros {
  const budget = readNumber(text, /,\d{1,2}$/.test(text) ? ',' : '.');
  if (budget === null || budget <= 0) throw new Wrong('budget', `“${text}” is no budget.`);
  return Math.round(micros(budget) / 10_000) * 10_000;
}

function dayIn(text: string, column: Column): Day | null {
  if (text === '') return null;
  if (!isDay(text)) throw new Wrong(column, `“${text}” is no day: days are written as 2026-11-05.`);
  return text;
}

function stateIn(text: string): string {
  const state = text.toLowerCase() || 'enabled';
  if (!['enabled', 'paused'].includes(state))
    throw new Wrong('state', `“${text}” is neither enabled nor paused.`);
  return state;
}
