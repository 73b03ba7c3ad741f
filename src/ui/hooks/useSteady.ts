import { useCallback, useLayoutEffect, useRef } from 'react';

/** The same function at every rendering, which does what the newest one does: rows that get it need not be made anew. */
export function useSteady<Args extends unknown[], Result>(
  act: (...args: Args) => Result,
): (...args: Args) => Result {
  const newest = useRef(act);
  useLayoutEffect(() => {
    newest.current = act;
  });
  return useCallback((...args: Args) => newest.current(...args), []);
}
