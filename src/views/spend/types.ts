/** How placements are looked at: campaign by campaign, or summed by what campaigns have in common. */
export const views = {
  campaigns: 'Campaigns',
  all: 'All together',
  strategy: 'By strategy',
  product: 'By product',
  conditions: 'Conditions',
};
export type WhereId = keyof typeof views;
export const ids = Object.keys(views) as WhereId[];
