/** Files: received, looked at, loaded. */

export { receiveFile, startLoad, type LoadCall, lookAgain, startPackage } from './loads.ts';
export { fileKindNames, fileKinds, type FileKind } from './columns/kinds.ts';
export { freshness, latestImports } from './queries.ts';
