import type { JobAnswer } from '../../answers/account.ts';
import { useEffect, useState } from 'react';
import { at } from '../address.ts';

/** Follows a job by server-sent events until it has ended. */
export function useJob(jobId: string | null, onEnd?: (job: JobAnswer) => void): JobAnswer | null {
  const [job, setJob] = useState<JobAnswer | null>(null);
  useEffect(() => {
    setJob(null);
    if (!jobId) return;
    const events = new EventSource(at(`/api/jobs/${jobId}/events`));
    events.onmessage = (event: MessageEvent<string>) => {
      const next = JSON.parse(event.data) as JobAnswer | null;
      if (!next) return;
      setJob(next);
      if (['done', 'failed', 'cancelled'].includes(next.state)) {
        events.close();
        onEnd?.(next);
      }
    };
    return () => events.close();
    // onEnd is a callback of the moment: following anew for each would miss events.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [jobId]);
  return job;
}
