/** Findings of the account, decisions on them, and how they are accepted. */

export {
  aloneOf,
  decideFindings,
  findingsFor,
  widerFor,
  roundOf,
  queueOf,
  widerOf,
  whyOf,
  seasonOf,
} from './findings.ts';
export { acceptFindings, draftFindings } from './accept.ts';
export { methodsOf, whatIfOf, type MethodsOrder } from './outlook.ts';
