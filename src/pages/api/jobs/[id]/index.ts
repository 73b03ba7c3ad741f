import { db } from '../../../../server/db/connection.ts';
import { notFound } from '../../../../server/errors.ts';
import { reads } from '../../../../server/http.ts';
import { jobById } from '../../../../server/jobs/queries.ts';

export const GET = reads(async ({ context }) => {
  const id = context.params.id ?? '';
  const job = /^[0-9a-f-]{36}$/.test(id) ? await jobById(db(), id) : undefined;
  if (!job) throw notFound(`job ${id}`);
  return job;
});
