import type { Day } from '../../src/core/metrics/days.ts';
import { addDays } from '../../src/core/metrics/days.ts';
import type { Micros } from '../../src/core/metrics/money.ts';
import type { Finding } from '../../src/core/round/types.ts';
import { Allowance, heldBack } from '../../src/core/routines/choose.ts';
import type { Routine } from '../../src/core/routines/routine.ts';

/** A routine as it works a market off: the product's own choice of what a round finds, within the routine's limits. */
export class RoutineAtWork {
  private readonly runs: { day: Day; lines: number; spend: Micros }[] = [];

  constructor(private readonly routine: Routine) {}

  /** Whether it runs on a night. */
  isDue(day: Day): boolean {
    const { time } = this.routine;
    return time.on === 'figures' || time.weekdays.includes((new Date(`${day}T00:00Z`).getUTCDay() + 6) % 7);
  }

  /** What of the findings it takes. `spend`: of the 30 days looked at, micros. */
  choose(
    findings: readonly Finding[],
    today: Day,
    changedOn: readonly (Day | null)[],
    spend: Micros,
  ): Finding[] {
    const week = this.runs
      .filter(({ day }) => day > addDays(today, -7))
      .reduce((sum, run) => ({ lines: sum.lines + run.lines, spend: sum.spend + run.spend }), {
        lines: 0,
        spend: 0,
      });
    const allowance = new Allowance(this.routine.limits, week, (spend * 7) / 30);
    const taken = findings.filter((finding) => {
      const { working, proposal } = finding;
      const candidate = {
        key: finding.key,
        kind: 'bids' as const,
        campaignId: finding.campaignId,
        measured: {
          sums: finding.sums,
          mu: working.prior.mu,
          cpc: working.cpc,
          targetAcos: working.targetAcos,
        },
        worth: finding.worth,
        raises: proposal.kind === 'bid' ? proposal.to > proposal.from : null,
        held: null,
        changedOn: changedOn[Number(finding.targetId)] ?? null,
        handOn: null,
        since: '2000-01-01',
      };
      return (
        heldBack(candidate, this.routine, today) === null &&
        allowance.take({ lines: 1, spend: Math.abs(finding.effect.spend) }) === null
      );
    });
    this.runs.push({ day: today, ...allowance.used });
    return taken;
  }
}
