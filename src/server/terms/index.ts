/** Search terms: what catches and blocks them, what their words tell, negatives and lists of them. */

export { sku, windowKeys, type WindowCall, negativeList, words, negativesCall } from './door.ts';
export { appearancesOf, acceptConflicts, conflictsOf, coverageOf, likenessOf } from './matching.ts';
export {
  collateralOf,
  negateWords,
  type WordScope,
  termsProgress,
  markRelevant,
  wordsOf,
  type WordsCall,
} from './words.ts';
export {
  applyList,
  listCsv,
  listOf,
  dropList,
  saveList,
  readNegativesText,
  wouldFlow,
  addNegatives,
  negativesOf,
  previewNegatives,
} from './negatives.ts';
export { listRows } from './queries.ts';
export { wordSorts } from '../engine/words.ts';
