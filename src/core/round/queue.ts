import type { Sums } from '../metrics/figures.ts';
import type { Finding, Working } from './types.ts';

/** A finding as a queue shows it: enough to filter, sort, adjust and accept it; its working is told one by one. */
export type QueueRow = Pick<
  Finding,
  | 'key'
  | 'queue'
  | 'subject'
  | 'targetKind'
  | 'matchType'
  | 'target'
  | 'adGroupId'
  | 'campaignId'
  | 'sku'
  | 'verdict'
  | 'proposal'
  | 'worth'
> &
  Pick<Working, 'interval' | 'targetAcos'> & {
    sums: Pick<Sums, 'clicks' | 'spend' | 'orders' | 'sales'>;
  };

export const queueRow = (finding: Finding): QueueRow => ({
  key: finding.key,
  queue: finding.queue,
  subject: finding.subject,
  targetKind: finding.targetKind,
  matchType: finding.matchType,
  target: finding.target,
  adGroupId: finding.adGroupId,
  campaignId: finding.campaignId,
  sku: finding.sku,
  verdict: finding.verdict,
  proposal: finding.proposal,
  worth: finding.worth,
  interval: finding.working.interval,
  targetAcos: finding.working.targetAcos,
  sums: {
    clicks: finding.sums.clicks,
    spend: finding.sums.spend,
    orders: finding.sums.orders,
    sales: finding.sums.sales,
  },
});
