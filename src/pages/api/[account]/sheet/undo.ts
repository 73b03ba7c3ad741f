import Joi from 'joi';
import { undoGroups, type Accepted } from '../../../../server/changes/index.ts';
import { ServiceError } from '../../../../server/errors.ts';
import { writes } from '../../../../server/http/http.ts';
import { answerOf } from '../../../../server/http/idempotency.ts';

interface Undone {
  groups?: string[];
  call?: string;
  back: boolean;
}

const schema = Joi.object<Undone>({
  groups: Joi.array().items(Joi.string()).min(1).max(60_000),
  call: Joi.string().min(8).max(200),
  back: Joi.boolean().default(false),
}).xor('groups', 'call');

/** The groups that a call under this Idempotency-Key made, for whoever left before its answer came. */
async function groupsOf(accountId: number, call: string): Promise<string[]> {
  const { groups } = ((await answerOf(accountId, call)) ?? {}) as Partial<Accepted>;
  if (groups && groups.length > 0) return groups;
  throw new ServiceError(409, 'never_done', 'This was not done: there is nothing to take back.');
}

/** Takes what was accepted off the open sheet, or (back) puts it on again. */
export const POST = writes(schema, async ({ accountId, body }) => ({
  lines: await undoGroups(accountId, body.groups ?? (await groupsOf(accountId, body.call!)), body.back),
}));
