import type { KitAnswer, KitRow } from '../../answers/kits.ts';
import { checkerOf, planKits, type KitBody, type KitGround } from '../../core/kits/kit.ts';
import { lineCount, partLines } from '../../core/kits/lines.ts';
import type { Plan } from '../../core/kits/types.ts';
import { recipeProblems } from '../../core/kits/recipe.ts';
import { getAccount } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { addLines, withOpenSheet, type Accepted } from '../changes/open.ts';
import { drawNumbers, insertPlanned, takenNames, type Planned } from '../changes/planned.queries.ts';
import { rowOf } from '../changes/rows.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { groundsOf, kitLimitsOf, suggestionsOf } from './desk.ts';
import {
  attachLists,
  deleteKit,
  groupKit,
  insertKit,
  isGroupOpen,
  kitById,
  kitRows,
  negativeLists,
  updateKit,
  type KitState,
} from './queries.ts';

/** Kits while they are made, and their way onto the sheet. */

export const kitsList = (accountId: number): Promise<KitRow[]> => kitRows(db(), accountId);

async function known(accountId: number, kitId: string): Promise<KitState> {
  const kit = /^[0-9a-f-]{36}$/i.test(kitId) ? await kitById(db(), accountId, kitId) : undefined;
  if (!kit) throw notFound(`kit ${kitId.slice(0, 40)}`);
  return kit;
}

export async function kitOf(accountId: number, kitId: string): Promise<KitAnswer> {
  const { version, groupKey, body } = await known(accountId, kitId);
  return { kitId, version, onSheet: groupKey !== null, body };
}

/** Keeps a new kit under a number that its maker drew: made twice it is there once. */
export async function newKit(accountId: number, kitId: string, body: KitBody): Promise<KitAnswer> {
  if (!(await kitById(db(), accountId, kitId))) await insertKit(db(), accountId, kitId, body);
  return kitOf(accountId, kitId);
}

export async function editKit(
  accountId: number,
  kitId: string,
  version: number,
  body: KitBody,
): Promise<{ version: number }> {
  const now = await updateKit(db(), accountId, kitId, version, body);
  if (now !== null) return { version: now };
  await known(accountId, kitId);
  const message =
    'Somebody else changed this kit meanwhile. Load it anew; nothing of theirs was overwritten.';
  throw new ServiceError(409, 'kit_changed', message);
}

export async function dropKit(accountId: number, kitId: string): Promise<void> {
  await known(accountId, kitId);
  await deleteKit(db(), accountId, kitId);
}

/** Everything that a kit would make, from what is known now. */
async function plansOf(accountId: number, body: KitBody): Promise<Plan[]> {
  const account = await getAccount(db(), accountId);
  const limits = kitLimitsOf(account);
  const [grounds, products, taken, lists] = await Promise.all([
    groundsOf(accountId, body.skus),
    productsOf(db(), accountId),
    takenNames(db(), accountId),
    negativeLists(db(), accountId),
  ]);
  const suggested = await Promise.all(grounds.map((one) => suggestionsOf(accountId, one)));
  const ground: KitGround = {
    today: account.today,
    limits,
    taken,
    lists,
    ownPages: products.map((row) => row.item_code),
    products: new Map(
      grounds.map((one, i) => [one.sku, { grounds: one, suggestions: suggested[i]!.suggestions }]),
    ),
  };
  const unknown = body.skus.filter((sku) => !ground.products.has(sku));
  if (unknown.length > 0)
    throw new ServiceError(422, 'unknown_product', `The account has no product ${unknown.join(', ')}.`, {
      field: 'skus',
    });
  const texts = body.keywords.map(({ text }) => text);
  const checks = new Map(grounds.map((one) => [one.sku, checkerOf(one, limits).check(texts, body.excluded)]));
  return planKits(body, ground, (sku) => checks.get(sku)!);
}

/** What stops a kit, as one error that names the first places. */
function refuseProblems(body: KitBody, plans: readonly Plan[]): void {
  const [wrong] = recipeProblems(body.recipe);
  if (wrong !== undefined) throw new ServiceError(422, 'bad_recipe', wrong, { field: 'recipe' });
  if (plans.length === 0)
    throw new ServiceError(422, 'no_product', 'A kit needs a product.', { field: 'skus' });
  const stops = plans.flatMap(({ product, problems }) =>
    problems
      .filter((one) => one.stops)
      .map(({ part, text }) => `${product.sku}${part ? `, ${part}` : ''}: ${text}`),
  );
  if (stops.length === 0) {
    if (plans.some((plan) => lineCount(plan) > 0)) return;
    const message = 'Everything stands as it would be made: there is nothing to put onto the sheet.';
    throw new ServiceError(422, 'nothing_to_make', message, { field: 'plan' });
  }
  const more = stops.length > 3 ? ` And ${stops.length - 3} more.` : '';
  throw new ServiceError(422, 'kit_problems', `${stops.slice(0, 3).join(' ')}${more}`, { field: 'plan' });
}

/** Puts all that a kit makes onto the open sheet as one group, or nothing of it. */
export async function putOnSheet(accountId: number, kitId: string, version: number): Promise<Accepted> {
  const kit = await known(accountId, kitId);
  if (kit.version !== version) {
    const message =
      'Somebody else changed this kit meanwhile. Load it anew and look at its plan; nothing was put on the sheet.';
    throw new ServiceError(409, 'kit_changed', message);
  }
  const plans = await plansOf(accountId, kit.body);
  refuseProblems(kit.body, plans);
  return withOpenSheet(accountId, async (tx, sheetId) => {
    if (kit.groupKey !== null && (await isGroupOpen(tx, accountId, kit.groupKey)))
      throw new ServiceError(
        409,
        'on_sheet',
        'This kit is on the sheet already. Take it off there to put it on anew.',
      );
    await refuseTaken(tx, accountId, plans);
    const group = crypto.randomUUID();
    const drafts = await draftsOf(tx, accountId, kit.body, plans);
    const about = { sheet_id: 0, group_key: group, finding_key: null, proposed_by: 'kit', reverts: null };
    const made = await addLines(
      tx,
      accountId,
      sheetId,
      drafts.map((draft) => rowOf(draft, about)),
    );
    await groupKit(tx, accountId, kitId, group);
    return { groups: [group], lines: made.length };
  });
}

/** Two kits may want one name: whoever comes second is told, nothing of it is put down. */
async function refuseTaken(tx: Transaction, accountId: number, plans: readonly Plan[]): Promise<void> {
  const taken = new Set(await takenNames(tx, accountId));
  const wanted = plans.flatMap(({ parts }) => parts.flatMap(({ stands, name }) => (stands ? [] : [name])));
  const twice = wanted.find((name) => taken.has(name.toLowerCase()));
  if (twice !== undefined)
    throw new ServiceError(
      409,
      'name_taken',
      `A campaign “${twice}” was made meanwhile. Look at the plan again.`,
      {
        field: 'plan',
      },
    );
}

async function draftsOf(tx: Transaction, accountId: number, body: KitBody, plans: readonly Plan[]) {
  const all = plans.flatMap((plan) => plan.parts.map((part) => ({ plan, part })));
  const campaignIds = await drawNumbers(tx, 'campaign', all.length);
  const adGroupIds = await drawNumbers(tx, 'ad_group', all.length);
  const status = body.startPaused ? 'paused' : 'enabled';
  const planned = all.flatMap(({ part }, at): Planned[] =>
    part.stands
      ? []
      : [
          {
            entity: 'campaign',
            objectId: campaignIds[at]!,
            campaignId: campaignIds[at]!,
            name: part.name,
            settings: {
              kind: part.part.kind === 'automatic' ? 'automatic' : 'manual',
              status,
              strategy: part.strategy,
              pacing: body.pacing,
              startDate: body.startDate,
              endDate: body.endDate,
              modifiers: { ...part.part.modifiers },
            },
          },
          {
            entity: 'ad_group',
            objectId: adGroupIds[at]!,
            campaignId: campaignIds[at]!,
            name: part.name,
            settings: { status: 'enabled', relatedCategories: false },
          },
        ],
  );
  await insertPlanned(tx, accountId, planned);
  if (body.lists.length > 0)
    await attachLists(
      tx,
      accountId,
      body.lists,
      all.map(({ part }, at) => part.stands?.campaignId ?? campaignIds[at]!),
    );
  return all.flatMap(({ plan, part }, at) =>
    partLines(plan, part, { campaignId: campaignIds[at]!, adGroupId: adGroupIds[at]! }, body.budgetKind),
  );
}
