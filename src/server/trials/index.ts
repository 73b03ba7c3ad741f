/** Changes that are tried for some days, beside what was not touched. */

export { actOnTrial, dropTrial, dueTrials, makeTrial, trialsAnswer, triedTouches } from './trials.ts';
export { trialSpans } from './queries.ts';
export { trialActSchema, trialSchema } from './door.ts';
