import { useQueries, useQuery, useQueryClient, type UseQueryResult } from '@tanstack/react-query';
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import type { DeskAnswer, GroundsAnswer, KitAnswer } from '../../answers/kits.ts';
import { checkerOf, planKits, type KitBody, type KitGround } from '../../core/kits/kit.ts';
import type { KeywordCheck, KeywordChecker } from '../../core/kits/keywords.ts';
import type { Plan } from '../../core/kits/types.ts';
import { get, send } from '../../ui/api.ts';

/** ms without a change before a draft is kept. */
const rest = 400;

export type Keeping = 'kept' | 'keeping' | { failed: string };

/** A kit that is worked on: its body as it stands here, kept on the server as it changes. */
export function useDraft(kitId: string) {
  const queries = useQueryClient();
  const queryKey = useMemo(() => ['kit', kitId], [kitId]);
  const kit = useQuery({
    queryKey,
    queryFn: () => get<KitAnswer>(`/api/kits/${kitId}`),
    // What is here may be ahead of what is kept; opened again, it is read anew.
    staleTime: Infinity,
    gcTime: 0,
  });
  const [body, setBody] = useState<KitBody | null>(null);
  const [keeping, setKeeping] = useState<Keeping>('kept');
  const state = useRef({
    body: null as KitBody | null,
    version: 0,
    isSent: true,
    sending: null as Promise<void> | null,
  });

  useEffect(() => {
    // What was typed and is not kept yet is never overwritten by what is read.
    if (!kit.data || !state.current.isSent) return;
    Object.assign(state.current, { body: kit.data.body, version: kit.data.version });
    setBody(kit.data.body);
    setKeeping('kept');
  }, [kit.data]);

  /** Keeps what has changed; resolves once nothing of it is left to be kept. Throws what was said against it. */
  const keep = useCallback(async (): Promise<number> => {
    const now = state.current;
    while (now.sending) await now.sending.catch(() => undefined);
    if (now.isSent || !now.body) return now.version;
    now.isSent = true;
    const sending = send<{ version: number }>('PUT', `/api/kits/${kitId}`, {
      version: now.version,
      body: now.body,
    }).then(({ version }) => void (now.version = version));
    now.sending = sending;
    try {
      await sending;
      if (now.isSent) setKeeping('kept');
    } catch (error) {
      now.isSent = false;
      setKeeping({ failed: (error as Error).message });
      throw error;
    } finally {
      now.sending = null;
    }
    return now.isSent ? now.version : keep();
  }, [kitId]);

  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const change = useCallback(
    (to: (old: KitBody) => KitBody) => {
      const now = state.current;
      if (!now.body) return;
      now.body = to(now.body);
      now.isSent = false;
      setBody(now.body);
      setKeeping('keeping');
      clearTimeout(timer.current);
      timer.current = setTimeout(() => void keep().catch(() => undefined), rest);
    },
    [keep],
  );
  // What was typed last is kept when the page is left.
  useEffect(() => {
    const leave = () => {
      clearTimeout(timer.current);
      void keep().catch(() => undefined);
    };
    window.addEventListener('pagehide', leave);
    return () => {
      window.removeEventListener('pagehide', leave);
      leave();
    };
  }, [keep]);

  /** Takes what is kept in the place of what stands here. */
  const reload = useCallback(() => {
    state.current.isSent = true;
    void queries.invalidateQueries({ queryKey });
  }, [queries, queryKey]);

  return { kit, body, change, keep, keeping, reload };
}

export const useDesk = () =>
  useQuery({ queryKey: ['kits', 'desk'], queryFn: () => get<DeskAnswer>('/api/kits/desk') });

/** What was answered of products, by SKU; those still being read are not there yet. */
function together(answers: readonly UseQueryResult<GroundsAnswer>[]) {
  return {
    grounds: new Map(answers.flatMap(({ data }) => (data ? [[data.grounds.sku, data] as const] : []))),
    isReading: answers.some(({ isPending }) => isPending),
    failed: answers.find(({ error }) => error)?.error ?? null,
  };
}

/** What is known of each product of a kit. */
export const useGrounds = (skus: readonly string[]) =>
  useQueries({
    queries: skus.map((sku) => ({
      queryKey: ['kits', 'grounds', sku],
      queryFn: () => get<GroundsAnswer>(`/api/kits/grounds?sku=${encodeURIComponent(sku)}`),
      staleTime: 5 * 60_000,
    })),
    combine: together,
  });

const noChecks: readonly KeywordCheck[] = [];

/** The plan of a kit as its body stands, worked out beside typing; checks of the keywords for the first product. */
export function usePlans(
  body: KitBody | null,
  desk: DeskAnswer | undefined,
  grounds: ReadonlyMap<string, GroundsAnswer>,
): { plans: Plan[]; checks: readonly KeywordCheck[]; isBehind: boolean } {
  const late = useDeferredValue(body);
  const checkers = useRef(new Map<GroundsAnswer, KeywordChecker>());
  const made = useMemo(() => {
    if (!late || !desk) return { plans: [], checks: noChecks };
    const texts = late.keywords.map(({ text }) => text);
    const checks = new Map<string, readonly KeywordCheck[]>();
    for (const answer of grounds.values()) {
      let checker = checkers.current.get(answer);
      if (!checker) {
        checker = checkerOf(answer.grounds, desk.limits);
        checkers.current.set(answer, checker);
      }
      checks.set(answer.grounds.sku, checker.check(texts, late.excluded));
    }
    const ground: KitGround = {
      today: desk.today,
      limits: desk.limits,
      taken: desk.taken,
      lists: desk.lists,
      ownPages: desk.products.map(({ itemCode }) => itemCode),
      products: grounds,
    };
    const first = late.skus.find((sku) => checks.has(sku));
    return {
      plans: planKits(late, ground, (sku) => checks.get(sku)!),
      checks: first === undefined ? noChecks : checks.get(first)!,
    };
  }, [late, desk, grounds]);
  return { ...made, isBehind: late !== body };
}
