import { createHash } from 'node:crypto';
import type { World } from '../world/world.ts';
import { create } from './create.ts';
import { refuse, Refusal, type ChangeLine, type LineAnswer } from './lines.ts';
import { objectsOf, update } from './update.ts';

/** The ids of what a batch has made so far, by the names its sender gave. */
class Made {
  private readonly ids = new Map<string, string>();

  add({ temp_id: name }: ChangeLine, id: string): void {
    if (name) this.ids.set(`new:${name}`, id);
  }

  private idOf(reference: string | null | undefined): string | null | undefined {
    if (!reference?.startsWith('new:')) return reference;
    const id = this.ids.get(reference);
    return id ?? refuse('parent_not_made', `What ${reference} stands for was not made before this line.`);
  }

  /** The line with ids in the place of names; throws a Refusal where one was not made. */
  resolve(line: ChangeLine): ChangeLine {
    if (line.temp_id && this.ids.has(`new:${line.temp_id}`))
      refuse('bad_value', `Two lines of this batch are called "${line.temp_id}".`);
    const { id, campaign_id, ad_group_id } = line;
    return {
      ...line,
      id: this.idOf(id),
      campaign_id: this.idOf(campaign_id),
      ad_group_id: this.idOf(ad_group_id),
    };
  }
}

/**
 * Applies a batch in one transaction, line by line: each applied or refused on its own. A line may refer to what an
 * earlier one makes. The same key again gives the same answer and applies nothing; the same key with other lines is a
 * conflict (null).
 */
export async function applyBatch(
  world: World,
  key: string,
  lines: ChangeLine[],
): Promise<{ answers: LineAnswer[]; repeated: boolean } | null> {
  const digest = createHash('sha256').update(JSON.stringify(lines)).digest('hex');
  const { structure } = world;
  const undo: (() => void)[] = [];
  try {
    return await world.sql.begin(async (tx) => {
      await tx`select pg_advisory_xact_lock(4711)`;
      const [known] = await tx<{ digest: string; answer: LineAnswer[] }[]>`
        select digest, answer from change_batch where idempotency_key = ${key}`;
      if (known) return known.digest === digest ? { answers: known.answer, repeated: true } : null;
      const answers: LineAnswer[] = [];
      const made = new Made();
      for (const line of lines) {
        try {
          const resolved = made.resolve(line);
          const { kind, id, body, answer } =
            line.action === 'create' ? await create(world, tx, resolved) : update(world, resolved);
          const map = objectsOf(structure, kind) as Map<string, object>;
          const before = map.get(id);
          undo.push(() => (before ? map.set(id, before) : map.delete(id)));
          map.set(id, body);
          await tx`
            insert into object (kind, id, body) values (${kind}, ${id}, ${tx.json(body as never)})
            on conflict (kind, id) do update set body = excluded.body`;
          if (line.action === 'create') made.add(line, id);
          answers.push({ line_id: line.line_id, state: 'applied', id: answer ?? id });
        } catch (error) {
          if (!(error instanceof Refusal)) throw error;
          answers.push({
            line_id: line.line_id,
            state: 'refused',
            code: error.code,
            message: error.message,
            ...(error.live === undefined ? {} : { live_value: error.live }),
          });
        }
      }
      await tx`update world set version = version + 1`;
      await tx`
        insert into change_batch (idempotency_key, digest, answer, applied_on)
        values (${key}, ${digest}, ${tx.json(answers as never)}, ${world.today ?? world.scenario.account.firstDay})`;
      structure.version++;
      world.restructured();
      return { answers, repeated: false };
    });
  } catch (error) {
    for (const step of undo.reverse()) step();
    throw error;
  }
}
