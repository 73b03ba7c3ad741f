import { isAsked } from './category.ts';
import type { CatalogueItem } from './catalogue.ts';

/** Which of the seller's own products an ad group advertises; what is null is not asked. */
export interface CollectionRule {
  category: string | null;
  brand: string | null;
  price: [number, number] | null;
  rating: [number, number] | null;
  /** Least discount, in per cent of the list price. */
  discount: number | null;
  inStock: boolean;
}

/** The SKUs of a collection on a day, in the order of the catalogue. */
export const membersOf = (rule: CollectionRule, items: readonly CatalogueItem[]): string[] =>
  items
    .filter(
      (item) =>
        item.sku !== null &&
        (rule.category === null || rule.category === item.category) &&
        (rule.discount === null || item.discount >= rule.discount) &&
        (!rule.inStock || item.stock > 0) &&
        isAsked(item, rule),
    )
    .map(({ sku }) => sku!);
