/** Lanes: where research sends its winners. */

export { lanesCsv, readLanesCsv } from './file.ts';
export { laneSet } from './door.ts';
export { laneMapOf, saveLanes } from './lanes.ts';
