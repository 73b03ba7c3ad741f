import { setTimeout as sleep } from 'node:timers/promises';
import { isUnreachable } from '../../../../../server/db/connection.ts';
import { reads } from '../../../../../server/http/http.ts';
import { jobOf } from '../../../../../server/jobs/index.ts';

const final = new Set(['done', 'failed', 'cancelled']);

/** Progress of a job as server-sent events, until it has ended. */
export const GET = reads(async ({ accountId, context }) => {
  const { id } = context.params;
  await jobOf(accountId, id);
  const encoder = new TextEncoder();
  let open = true;
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      let last = '';
      while (open) {
        const job = await jobOf(accountId, id).catch((error: unknown) => {
          // While Postgres is away nothing is known; whoever watches goes on watching.
          if (isUnreachable(error)) return null;
          throw error;
        });
        const text = job === null ? last : JSON.stringify(job);
        if (open && text !== last) controller.enqueue(encoder.encode(`data: ${text}\n\n`));
        last = text;
        if (job && final.has(job.state)) break;
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
