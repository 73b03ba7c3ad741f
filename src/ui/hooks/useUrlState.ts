import { useCallback, useSyncExternalStore } from 'react';

const listeners = new Set<() => void>();

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  window.addEventListener('popstate', listener);
  return () => {
    listeners.delete(listener);
    window.removeEventListener('popstate', listener);
  };
}

/** Sets parameters of the address; null removes one. `push` makes a step that Back undoes. */
export function setUrl(values: Record<string, string | null>, push = false): void {
  const url = new URL(window.location.href);
  for (const [name, value] of Object.entries(values)) {
    if (value === null || value === '') url.searchParams.delete(name);
    else url.searchParams.set(name, value);
  }
  if (url.href === window.location.href) return;
  window.history[push ? 'pushState' : 'replaceState'](null, '', url);
  for (const listener of listeners) listener();
}

/** One parameter of the address as state: a link shows a colleague the same thing, Back works. */
export function useUrlState(name: string, push = false): [string | null, (value: string | null) => void] {
  const value = useSyncExternalStore(
    subscribe,
    () => new URLSearchParams(window.location.search).get(name),
    () => null,
  );
  const set = useCallback((next: string | null) => setUrl({ [name]: next }, push), [name, push]);
  return [value, set];
}
