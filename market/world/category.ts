/** What a category target asks of the pages it stands beside; null: anything. Both ends belong to a range. */
export interface CategoryRule {
  category: string;
  price: [number, number] | null;
  rating: [number, number] | null;
  brand: string | null;
}

/** What a rule looks at. Prices in the account's currency, ratings from 1 to 5 stars. */
export interface Described {
  category: string;
  price: number;
  rating: number;
  brand: string;
}

const range = /^(\d+(?:\.\d+)?)?-(\d+(?:\.\d+)?)?$/;

/**
 * Reads the expression of a category target: `Crocks, price 44.00-, rating -4.2, brand Fenwold`. A range may be open at
 * either end. Throws an Error that names the part it cannot read.
 */
export function readCategory(expression: string): CategoryRule {
  const [category = '', ...parts] = expression.split(',').map((part) => part.trim());
  if (category === '') throw new Error(`"${expression}" names no category.`);
  const rule: CategoryRule = { category, price: null, rating: null, brand: null };
  for (const part of parts) {
    const [, name = '', rest = ''] = /^(price|rating|brand) (.+)$/.exec(part) ?? [];
    if (name === 'brand') rule.brand = rest;
    else {
      const ends = range.exec(rest);
      const from = Number(ends?.[1] ?? 0);
      const to = Number(ends?.[2] ?? Infinity);
      if (!ends || rest === '-' || from > to)
        throw new Error(`"${part}" narrows no category, as "price 10.00-20.00" or "rating -4.2" do.`);
      rule[name as 'price' | 'rating'] = [from, to];
    }
  }
  return rule;
}

const within = (value: number, ends: [number, number] | null): boolean =>
  ends === null || (value >= ends[0] && value <= ends[1]);

/** Whether an item is one of those that a rule asks for, its category aside. */
export const isAsked = (item: Omit<Described, 'category'>, rule: Omit<CategoryRule, 'category'>): boolean =>
  within(item.price, rule.price) &&
  within(item.rating, rule.rating) &&
  (rule.brand === null || rule.brand.toLowerCase() === item.brand.toLowerCase());
