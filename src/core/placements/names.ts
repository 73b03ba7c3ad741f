/** How placements are called where people read them. */
const names: Readonly<Record<string, string>> = {
  top_of_search: 'top of search',
  rest_of_search: 'rest of search',
  product_pages: 'product pages',
  category_browse: 'category lists',
};

/**
 * A placement in words; one that is not known is called as the marketplace calls it.
 * @example placementName('product_pages') // 'product pages'
 */
export const placementName = (placement: string): string =>
  names[placement] ?? placement.replaceAll('_', ' ');

/**
 * The same where there is little room.
 * @example placementShort('category_browse') // 'lists'
 */
export const placementShort = (placement: string): string => {
  const name = placementName(placement);
  return name.endsWith(' of search')
    ? name.slice(0, -' of search'.length)
    : name.slice(name.lastIndexOf(' ') + 1);
};

/** In the order in which they are shown; what is not known comes last. */
export function byPlacement(a: string, b: string): number {
  const order = Object.keys(names);
  const at = (name: string) => (order.includes(name) ? order.indexOf(name) : order.length);
  return at(a) - at(b) || a.localeCompare(b);
}

/** How bidding strategies are called; one that is not known is called as the marketplace calls it. */
const strategies: Readonly<Record<string, string>> = {
  fixed: 'fixed',
  down_only: 'down only',
  up_and_down: 'up and down',
};
export const strategyName = (strategy: string): string =>
  strategies[strategy] ?? strategy.replaceAll('_', ' ');
