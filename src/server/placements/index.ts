/** Where campaigns' money works: their placements, and modifiers and bids that move together. */

export { acceptPlacements, placementDraftsOf, placementRows, placementsAnswer } from './placements.ts';
export { placementOrderSchema } from './door.ts';
