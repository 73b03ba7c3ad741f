/** The month's plan as a file. */

export { planCsv, readPlanCsv } from './file.ts';
