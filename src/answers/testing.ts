import type { Day } from '../core/metrics/days.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { KeptTest } from '../core/testing/plan.ts';
import type { Learned } from '../core/testing/learned.ts';

/** What is set aside to learn, what is being tried, and what was learned. */
export interface TestingAnswer {
  share: number;
  /** Spend of a usual week, of the last 30 settled days, micros; null while there are none. */
  weekSpend: Micros | null;
  tests: TestRow[];
}

export interface TestRow {
  lineId: number;
  targetId: string;
  name: string;
  matchType: string | null;
  kind: string;
  adGroup: string;
  campaign: string;
  sku: string | null;
  from: Micros;
  to: Micros;
  test: KeptTest;
  /** Its first and last day; it ends early on the day on which its bid was changed again. */
  since: Day;
  until: Day;
  /** Days of it that were told. */
  days: number;
  state: 'running' | 'settling' | 'over';
  isEndedEarly: boolean;
  clicks: number;
  orders: number;
  spend: Micros;
  sales: Micros;
  /** What it taught; null while it runs or its orders settle. */
  learned: Learned | null;
}
