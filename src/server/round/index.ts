/** Findings of the account, decisions on them, and how they are accepted. */

export { aloneOf, decideFindings, roundOf, queueOf, widerOf, whyOf, seasonOf } from './findings.ts';
export { acceptFindings } from './accept.ts';
export { methodsOf, whatIfOf, type MethodsOrder } from './outlook.ts';
