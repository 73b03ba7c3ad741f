import type Joi from 'joi';

/** A page of a list, with where the next one begins. */
export const page = <T>(rows: readonly T[], query: { cursor?: string; limit?: string }) => {
  const from = Number(query.cursor ?? 0) || 0;
  const count = Math.min(1000, Math.max(1, Number(query.limit ?? 500) || 500));
  const next = from + count;
  return { items: rows.slice(from, next), next_cursor: next < rows.length ? String(next) : null };
};

export const problem = (status: number, code: string, message: string) =>
  Object.assign(new Error(message), { statusCode: status, code });

/** What was sent, when it is what the schema says; throws a problem. */
export function check<T>(schema: Joi.ObjectSchema<T>, sent: unknown): T {
  const { error, value } = schema.validate(sent);
  if (error) throw problem(400, 'bad_request', error.message);
  return value as T;
}
