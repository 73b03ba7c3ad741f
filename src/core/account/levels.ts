/** The levels of the account: each is a table of its own, over the whole account or inside an object above it. */
export const levels = [
  'account',
  'budget_groups',
  'products',
  'campaigns',
  'ad_groups',
  'placements',
  'targets',
  'terms',
  'negatives',
] as const;

export type Level = (typeof levels)[number];

export const levelNames: Record<Level, { one: string; many: string }> = {
  account: { one: 'Account', many: 'Account' },
  budget_groups: { one: 'Budget group', many: 'Budget groups' },
  products: { one: 'Product', many: 'Products' },
  campaigns: { one: 'Campaign', many: 'Campaigns' },
  ad_groups: { one: 'Ad group', many: 'Ad groups' },
  placements: { one: 'Placement', many: 'Placements' },
  targets: { one: 'Target', many: 'Targets' },
  terms: { one: 'Search term', many: 'Search terms' },
  negatives: { one: 'Negative', many: 'Negatives' },
};

/** What Explore answers: said once, for the server that sends it and the view that shows it. */

/** Where a table is, or an object on the way there. */
export interface Within {
  level: Level;
  id: string;
}

export interface Step extends Within {
  name: string;
}

/** Rows of a level, by place. */
export type Rows = Int32Array;
