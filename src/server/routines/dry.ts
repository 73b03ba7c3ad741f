import type { DryAnswer } from '../../answers/routines.ts';
import { addDays, daysBetween, type Day, type Window } from '../../core/metrics/days.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import { sentenceOf } from '../../core/round/explain.ts';
import type { Finding } from '../../core/round/types.ts';
import { DryRun, playable, type DryCandidate } from '../../core/routines/dry.ts';
import { narrowingOf } from '../../core/routines/narrow.ts';
import { routineProblem, type Routine } from '../../core/routines/routine.ts';
import { lookedAt } from '../../core/routines/safety.ts';
import { getAccount, settling } from '../account/account.ts';
import { sightsOf } from '../account/queries.ts';
import { db } from '../db/connection.ts';
import type { NightFound } from '../engine/judging.ts';
import { judging } from '../engine/link.ts';
import { ServiceError } from '../errors.ts';
import { enqueue, type JobContext } from '../jobs/jobs.ts';
import { raisesBid, scopeOf } from './candidates.ts';
import { adGroupNames, campaignsSince, pastChanges } from './ground.queries.ts';
import { keptRoutines } from './queries.ts';

/** Dry runs: a routine over nights of the past, as a job with progress. Nothing is changed by it. */

export interface DryOrder {
  settings: Routine;
  from: Day;
  to: Day;
  /** The routine as it is saved is played beside it; null: alone. */
  besides: number | null;
}

/** Nights that are played at most, and findings of each queue that a night looks at. */
export const mostNights = 120;
const mostFindings = 3000;

/** Begins a dry run. */
export async function startDry(accountId: number, order: DryOrder): Promise<{ jobId: string }> {
  const problem = routineProblem(order.settings);
  if (problem) throw new ServiceError(422, 'bad_routine', problem.message, { field: problem.field });
  const { today } = await getAccount(db(), accountId);
  const wrong = (message: string, field: string) => new ServiceError(422, 'bad_stretch', message, { field });
  if (today === null) throw wrong('There are no figures yet.', 'from');
  const nights = daysBetween(order.from, order.to) + 1;
  if (nights < 1) throw wrong('The stretch ends before it begins.', 'to');
  if (nights > mostNights)
    throw wrong(`A dry run plays ${mostNights} nights at most, not ${nights}.`, 'from');
  if (order.to > today) throw wrong(`${order.to} lies after the last day that is known, ${today}.`, 'to');
  if (!order.settings.kinds.some((kind) => (playable as readonly string[]).includes(kind)))
    throw wrong(
      'Harvest, negatives and bids can be played over the past; none of them is among its kinds. Let it propose only for a while instead.',
      'kinds',
    );
  return { jobId: await enqueue(accountId, 'dry_run', { ...order }) };
}

/** What was known of a day's orders on a night, of those known by now: as reported at that age, else by the curve. */
function knownThen(
  sights: readonly { day: Day; age: number; orders: number }[],
  curve: readonly number[],
  today: Day,
): (night: Day, days: Window) => [Day, number][] {
  const byDay = new Map<Day, { age: number; orders: number }[]>();
  for (const { day, ...sight } of sights) byDay.set(day, [...(byDay.get(day) ?? []), sight]);
  for (const list of byDay.values()) list.sort((a, b) => a.age - b.age);
  return (night, { from, to }) => {
    const known: [Day, number][] = [];
    for (let day = from; day <= to; day = addDays(day, 1)) {
      const age = daysBetween(day, night);
      const list = byDay.get(day) ?? [];
      const then = list.filter((sight) => sight.age <= age).at(-1);
      const now = list.at(-1);
      const share =
        then && now && now.orders > 0
          ? then.orders / now.orders
          : maturity(curve, age) / maturity(curve, daysBetween(day, today));
      if (share < 1) known.push([day, share]);
    }
    return known;
  };
}

/** Plays the nights of a job, each with what was known by then. */
export async function runDry({ sql, job, progress }: JobContext): Promise<Record<string, unknown>> {
  const accountId = job.account_id;
  const { settings, from, to, besides } = job.payload as unknown as DryOrder;
  const saved =
    besides === null
      ? null
      : ((await keptRoutines(sql, accountId)).find(({ routineId }) => routineId === besides)?.settings ??
        null);
  const nights = daysBetween(from, to) + 1;
  const total = nights * (saved ? 2 : 1);
  let done = 0;
  const tell = (doing: string) => progress({ doing, step: done, total }, true);
  const play = async (routine: Routine, doing: string): Promise<DryAnswer> => {
    const run = new DryRun(routine, to);
    const night = await nightsOf(accountId, routine);
    for (let day = from; day <= to; day = addDays(day, 1)) {
      await tell(`${doing}, ${day}`);
      if (run.isDue(day)) {
        const found = await night(day, run);
        run.night(day, found.candidates, found.weekSpend);
      } else run.rest(day);
      done++;
    }
    const unplayed = routine.kinds.filter((kind) => !(playable as readonly string[]).includes(kind));
    return { nights: run.nights, summary: run.summary(), unplayed };
  };
  const played = await play(settings, 'as it is set here');
  return { played, saved: saved && (await play(saved, 'as it is saved')) };
}

/** What a routine would have found on a night. */
async function nightsOf(
  accountId: number,
  routine: Routine,
): Promise<(day: Day, run: DryRun) => Promise<{ candidates: DryCandidate[]; weekSpend: number }>> {
  const account = await getAccount(db(), accountId);
  const { curve, age, settledTo: settledNow } = await settling(db(), account);
  const today = account.today!;
  const known = knownThen(await sightsOf(db(), accountId), curve, today);
  const changes = await pastChanges(db(), accountId);
  const since = await campaignsSince(db(), accountId);
  const names = await adGroupNames(db(), accountId);
  const within = await scopeOf(accountId, routine.scope, lookedAt(routine, today, settledNow!));
  const wants = new Set<string>(routine.kinds);
  return async (day, run) => {
    const settledTo = addDays(day, -age);
    const window = lookedAt(routine, day, settledTo);
    const text = await judging().night(
      { accountId, figures: String(account.data_version) },
      {
        day,
        settledTo,
        window,
        narrowing: narrowingOf(routine),
        changes,
        played: run.played,
        known: known(day, { from: addDays(day, -31), to: day }),
        most: mostFindings,
      },
    );
    if (text === null) return { candidates: [], weekSpend: 0 };
    const { findings, spend } = JSON.parse(text) as NightFound;
    const changedOn = new Map(run.played.map(({ targetId, on }) => [targetId, on]));
    const candidates = findings.flatMap((finding) => {
      const made = dryCandidate(finding, names, since, changedOn);
      return made && wants.has(made.kind) && within(finding) ? [made] : [];
    });
    candidates.sort((a, b) => b.worth - a.worth || (a.key < b.key ? -1 : 1));
    return { candidates, weekSpend: (spend / routine.days) * 7 };
  };
}

function dryCandidate(
  finding: Finding,
  names: ReadonlyMap<string, { name: string; campaign: string }>,
  since: ReadonlyMap<string, Day>,
  changedOn: ReadonlyMap<string, Day>,
): DryCandidate | null {
  const { proposal, working, targetId } = finding;
  // An ad group's bid stands for many targets: which of them it would have moved is not kept.
  if (proposal.kind === 'bid' && (proposal.isTest || finding.members)) return null;
  const kind = proposal.kind === 'harvest' ? 'harvest' : proposal.kind === 'negative' ? 'negate' : 'bids';
  return {
    key: finding.key,
    kind,
    campaignId: finding.campaignId,
    campaign: names.get(finding.adGroupId)?.campaign ?? '',
    subject: finding.subject,
    measured: { sums: finding.sums, mu: working.prior.mu, cpc: working.cpc, targetAcos: working.targetAcos },
    worth: finding.worth,
    raises: raisesBid(finding),
    held: proposal.kind === 'wait' ? `the ${proposal.held!.by}` : null,
    changedOn: kind === 'bids' ? (changedOn.get(targetId) ?? null) : null,
    handOn: null,
    since: since.get(finding.campaignId) ?? null,
    sentence: sentenceOf(finding, { adGroup: (id) => names.get(id)?.name ?? id }),
    lines: proposal.kind === 'harvest' ? 1 + proposal.isolateIn.length : 1,
    effect: finding.effect,
    bid: proposal.kind === 'bid' ? { targetId, to: proposal.to } : null,
  };
}
