/** Rules by which an ad group chooses its products (Quayside's collections), in words. */

type Ends = [from: number | null, to: number | null];

const ends = (value: unknown): Ends | null =>
  Array.isArray(value) && value.length === 2 ? (value as Ends) : null;

const between = (name: string, [from, to]: Ends, digits: number): string =>
  `${name} ${from === null ? 'up to' : from.toFixed(digits)}${from !== null && to !== null ? ' to' : ''}${to === null ? ' or more' : ` ${to.toFixed(digits)}`}`;

/**
 * A rule in words; what it asks for that is not known here is named as it is.
 * @example ruleSaid({ category: 'crocks', price: [10, 50], inStock: true }) // 'category crocks, price 10.00 to 50.00, in stock'
 */
export function ruleSaid(rule: Readonly<Record<string, unknown>>): string {
  const said: string[] = [];
  for (const [name, value] of Object.entries(rule)) {
    if (value === null || value === false) continue;
    const range = ends(value);
    if (name === 'inStock') said.push('in stock');
    else if (name === 'discount') said.push(`discount of ${String(value)} % or more`);
    else if (range) said.push(between(name, range, name === 'price' ? 2 : 1));
    else said.push(`${name} ${typeof value === 'string' ? value : JSON.stringify(value)}`);
  }
  return said.length > 0 ? said.join(', ') : 'all products';
}
