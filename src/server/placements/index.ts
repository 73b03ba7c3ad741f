/** Where campaigns' money works: their placements, and modifiers and bids that move together. */

export { acceptPlacements, placementDraftsOf, placementRows, placementsAnswer } from './placements.ts';
export { acceptConditions, conditionsAnswer, setConditions } from './conditions.ts';
export { acceptStrategies } from './strategies.ts';
export { conditionOrderSchema, conditionsSchema, placementOrderSchema, strategyOrderSchema } from './door.ts';
