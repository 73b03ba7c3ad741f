/** The account in one look: how it stands, what moved it, where its month lands, and what was noted. */

export { movedOf, todayAnswer, verdictsOf } from './today.ts';
export { paceOf } from './pace.ts';
export { makeNote, notesIn, setNote } from './notes.ts';
export { makeReport, removeReport, reportFile, reportOf, reportsOf, setReportWords } from './reports.ts';
export { noteSchema, reportSchema, wordsSchema } from './door.ts';
export { queuesOf } from './queues.ts';
