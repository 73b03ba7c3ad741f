import { useEffect, useState } from 'react';
import { at } from '../address.ts';

export interface JobView {
  job_id: string;
  kind: string;
  state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
  progress: Record<string, unknown>;
  result: unknown;
  message: string | null;
  created_at: string;
}

/** Follows a job by server-sent events until it has ended. */
export function useJob(jobId: string | null, onEnd?: (job: JobView) => void): JobView | null {
  const [job, setJob] = useState<JobView | null>(null);
  useEffect(() => {
    setJob(null);
    if (!jobId) return;
    const events = new EventSource(at(`/api/jobs/${jobId}/events`));
    events.onmessage = (event: MessageEvent<string>) => {
      const next = JSON.parse(event.data) as JobView | null;
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
