import { setTimeout as sleep } from 'node:timers/promises';
import { db } from '../../../../server/db/connection.ts';
import { notFound } from '../../../../server/errors.ts';
import { reads } from '../../../../server/http.ts';
import { jobById } from '../../../../server/jobs/queries.ts';

const final = new Set(['done', 'failed', 'cancelled']);

/** Progress of a job as server-sent events, until it has ended. */
export const GET = reads(async ({ context }) => {
  const id = context.params.id ?? '';
  const first = /^[0-9a-f-]{36}$/.test(id) ? await jobById(db(), id) : undefined;
  if (!first) throw notFound(`job ${id}`);
  const encoder = new TextEncoder();
  let open = true;
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      let last = '';
      while (open) {
        const job = await jobById(db(), id);
        const text = JSON.stringify(job ?? null);
        if (text !== last) controller.enqueue(encoder.encode(`data: ${text}\n\n`));
        last = text;
        if (!job || final.has(job.state)) break;
        await sleep(250);
      }
      if (open) controller.close();
    },
    cancel() {
      open = false;
    },
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream; charset=utf-8', 'cache-control': 'no-store' },
  });
});
