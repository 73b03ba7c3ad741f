/** Rules by which an ad group chooses its products (Quayside's collections), in words. */

/** What a rule asks for, by its names at the marketplace. */
export type Rule = Readonly<Record<string, unknown>>;

/** A rule as it is kept, a JSON object; null for text that is none. */
export function readRule(text: string): Rule | null {
  try {
    const rule: unknown = JSON.parse(text);
    return typeof rule === 'object' && rule !== null && !Array.isArray(rule) ? (rule as Rule) : null;
  } catch {
    return null;
  }
}

export const writeRule = (rule: Rule): string => JSON.stringify(rule);

type Ends = [from: number | null, to: number | null];

const ends = (value: unknown): Ends | null =>
  Array.isArray(value) && value.length === 2 ? (value as Ends) : null;

/** Above it nothing is left out. */
export const noEnd = 1e6;

function between(name: string, [from, to]: Ends, digits: number): string {
  const [least, most] = [from ?? 0, to ?? noEnd];
  if (most >= noEnd) return `${name} ${least.toFixed(digits)} or more`;
  return least <= 0
    ? `${name} up to ${most.toFixed(digits)}`
    : `${name} ${least.toFixed(digits)} to ${most.toFixed(digits)}`;
}

/**
 * A rule in words; what it asks for that is not known here is named as it is.
 * @example ruleSaid({ category: 'crocks', price: [10, 50], inStock: true }) // 'category crocks, price 10.00 to 50.00, in stock'
 */
export function ruleSaid(rule: Rule): string {
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
