import { LRUCache } from 'lru-cache';
import type { LineDraft } from '../../core/changes/lines.ts';
import { freeName } from '../../core/kits/names.ts';
import type { Window } from '../../core/metrics/days.ts';
import type { StructureFinding } from '../../core/structure/types.ts';
import { getAccount } from '../account/account.ts';
import { fieldLimitsOf } from '../account/limits.ts';
import { drawNumbers, insertPlanned, takenNames, type Planned } from '../changes/planned.queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { judging } from '../engine/link.ts';
import { ServiceError } from '../errors.ts';

/** How campaigns are built, as findings of the round. */

const kept = new LRUCache<string, Promise<StructureFinding[]>>({ max: 24 });

export const isStructure = (key: string): boolean => key.startsWith('structure:');

/** What is found in a window, from memory when nothing changed; `key` names all that it depends on. */
export async function structureOf(
  accountId: number,
  window: Window,
  key: string,
): Promise<StructureFinding[]> {
  let pending = kept.get(key);
  if (!pending) {
    pending = find(accountId, window);
    kept.set(key, pending);
    pending.catch(() => kept.delete(key));
  }
  return pending;
}

async function find(accountId: number, window: Window): Promise<StructureFinding[]> {
  const { minimumBudget } = fieldLimitsOf(await getAccount(db(), accountId));
  const taken = await takenNames(db(), accountId);
  const found = await judging().structure(await editionOf(accountId), window, { minimumBudget, taken });
  if (!found) throw noFigures();
  return JSON.parse(found) as StructureFinding[];
}

/** Findings by their keys; a key that is none is told. */
export function chosenStructure(
  found: readonly StructureFinding[],
  keys: readonly string[],
): Map<string, StructureFinding> {
  const byKey = new Map(found.map((one) => [one.key, one]));
  return new Map(
    keys.map((key) => {
      const finding = byKey.get(key);
      if (finding?.repair === null)
        throw new ServiceError(422, 'nothing_proposed', `“${finding.subject}” has no repair to accept.`, {
          field: key,
        });
      if (finding) return [key, finding];
      const message = 'A finding is not there any more: the account has changed. Load the round again.';
      throw new ServiceError(409, 'finding_gone', message, { field: key });
    }),
  );
}

/** The lines that carry out a repair: what it makes gets its numbers here, and a name that is free by now. */
export async function structureDrafts(
  tx: Transaction,
  accountId: number,
  { campaigns, drafts, sentence, loses }: StructureFinding,
): Promise<LineDraft[]> {
  const campaignIds = await drawNumbers(tx, 'campaign', campaigns.length);
  const adGroupIds = await drawNumbers(tx, 'ad_group', campaigns.length);
  const taken = new Set(await takenNames(tx, accountId));
  const made = new Map(
    campaigns.map(({ reference, name }, at) => [
      reference,
      { campaignId: campaignIds[at]!, adGroupId: adGroupIds[at]!, name: freeName(name, taken) },
    ]),
  );
  const planned = campaigns.flatMap(({ reference, kind, strategy, modifiers }): Planned[] => {
    const { campaignId, adGroupId, name } = made.get(reference)!;
    const settings = { status: 'enabled', strategy, startDate: null, endDate: null } as const;
    return [
      {
        entity: 'campaign',
        objectId: campaignId,
        campaignId,
        name,
        settings: { ...settings, kind, pacing: 'as_it_comes', modifiers: { ...modifiers } },
      },
      {
        entity: 'ad_group',
        objectId: adGroupId,
        campaignId,
        name,
        settings: { status: 'enabled', relatedCategories: false },
      },
    ];
  });
  if (planned.length > 0) await insertPlanned(tx, accountId, planned);
  return drafts.map((draft, at) => {
    // What is lost is said once.
    const reason = at === 0 ? `${sentence} ${loses}` : sentence;
    const own = made.get(draft.campaignId);
    if (!own) return { ...draft, reason };
    const { campaignId, name } = own;
    const isNamed = draft.action === 'create' && (draft.entity === 'campaign' || draft.entity === 'ad_group');
    return {
      ...draft,
      reason,
      campaignId,
      adGroupId: draft.adGroupId === null ? null : own.adGroupId,
      expression: isNamed ? name : draft.expression,
    };
  });
}
