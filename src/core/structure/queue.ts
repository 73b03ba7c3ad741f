import { nowhere, type QueueRow } from '../round/queue.ts';
import { structureKinds, type StructureFinding } from './types.ts';

/** What is found about how a campaign is built. */
export const structureQueueRow = (finding: StructureFinding): QueueRow => ({
  ...nowhere,
  key: finding.key,
  queue: 'structure',
  subject: finding.subject,
  campaignId: finding.campaignId,
  sku: finding.sku,
  verdict: 'undecided',
  proposal: {
    kind: 'repair',
    repair: finding.repair,
    lines: finding.drafts.length,
    sentence: `${structureKinds[finding.kind]}. ${finding.sentence}`,
    ...(finding.loses === '' ? {} : { loses: finding.loses }),
  },
  worth: finding.worth,
  interval: null,
  targetAcos: 0,
  sums: null,
  claims: [],
  takes: 0,
});
