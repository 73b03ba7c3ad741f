import { usualKit, type KitBody } from '../../src/core/kits/kit.ts';
import { shippedRecipes } from '../../src/core/kits/recipe.ts';

/** A full set for the demo account's tamper. */
export const kitBody = (more: Partial<KitBody> = {}): KitBody => ({
  ...usualKit,
  completes: false,
  name: 'Tamper, new',
  skus: ['TT-TMP1'],
  recipe: shippedRecipes[0]!,
  budget: 60_000_000,
  keywords: [
    { text: 'sauerkraut tamper', bid: null },
    { text: 'wooden kraut pounder', bid: 900_000 },
    { text: 'beechwood tamper for jars', bid: null },
  ],
  items: [{ itemCode: 'QY2B7V3J', bid: null }],
  excluded: ['canning'],
  codes: { 'TT-TMP1': 'Tamper new' },
  ...more,
});
