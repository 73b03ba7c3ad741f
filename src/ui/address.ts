/** Addresses within the account that is open: pages and calls are written without it, as `/data` or `/api/goals`. */

/** The account that this page shows; its address begins with it. */
export const openAccount = (): number => Number(window.location.pathname.split('/')[1]);

/** Calls that belong to no account. */
const common = /^\/api\/(accounts|health)\b/;

/** `/data` as `/3/data`, `/api/goals` as `/api/3/goals`. */
export function at(path: string): string {
  if (common.test(path)) return path;
  return path.startsWith('/api/')
    ? `/api/${openAccount()}${path.slice('/api'.length)}`
    : `/${openAccount()}${path}`;
}
