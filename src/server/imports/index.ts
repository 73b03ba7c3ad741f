/** Files: received, looked at, loaded. */

export { importsOf } from './answer.ts';
export { fileKindNames } from './kinds/index.ts';
export { lookAgain, receiveFile, startLoad, startPackage } from './loads.ts';
