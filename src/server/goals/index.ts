/** Goals: targets, floors, ceilings, stances, methods and guards by scope; costs; the month's plan. */

export { goalsCsv, costsCsv } from './file.ts';
export {
  findPlaces,
  goalsOf,
  removeGoal,
  setGoal,
  setProductCosts,
  type CostsCall,
  type GoalCall,
} from './goals.ts';
export { takeBackGoals } from './loaded.ts';
export { planOf, setPlans } from './plan.ts';
export { costsSchema, goalSchema, goalScope, planSchema } from './door.ts';
