/** Ways into other places. */

/** The terms that have these words in a row, in Explore. */
export function termsWith(words: string, sku: string | null): string {
  const pattern = `(^|[^\\p{L}\\p{N}])${words.split(' ').join('[^\\p{L}\\p{N}]+')}($|[^\\p{L}\\p{N}])`;
  const where = { all: [{ column: 'name', is: 'matches', value: pattern }] };
  const inside = sku ? `&in=products:${encodeURIComponent(sku)}` : '';
  return `/explore?level=terms&where=${encodeURIComponent(JSON.stringify(where))}${inside}`;
}
