/** Goals: targets, floors, ceilings and stances by scope. */

export { goalsOf, removeGoal, setGoal, type GoalCall } from './goals.ts';
