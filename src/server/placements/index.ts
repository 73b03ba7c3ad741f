/** Where campaigns' money works: their placements, and modifiers and bids that move together. */

export { acceptPlacements, placementDraftsOf, placementRows, placementsAnswer } from './placements.ts';
export { acceptConditions, conditionsAnswer, setConditions } from './conditions.ts';
export { conditionOrderSchema, conditionsSchema, placementOrderSchema } from './door.ts';
