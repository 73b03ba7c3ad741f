/** Rounds that run by themselves, within limits: what they are, when they run, what they did. */

export {
  actOnRun,
  changeRoutine,
  itemsAnswer,
  makeRoutine,
  rankRoutines,
  removeRoutine,
  routinesAnswer,
  runNow,
  stagesAnswer,
  switchRoutines,
  turnRoutine,
  waitingAnswer,
} from './routines.ts';
export { lookAtClock, planAfterFigures, runDue } from './plan.ts';
export { runDry, startDry } from './dry.ts';
export { exportItems, itemsWanted } from './log.ts';
export {
  changeSchema,
  drySchema,
  orderSchema,
  routineSchema,
  runActSchema,
  switchSchema,
  turnSchema,
} from './door.ts';
