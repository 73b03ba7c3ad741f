import type { DryAnswer } from '../../answers/routines.ts';
import { changeName, type Played } from '../../core/account/as-of.ts';
import { addDays, daysBetween, type Day, type Window } from '../../core/metrics/days.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import {
  byWorth,
  isStarvedBest,
  offeredFinding,
  offeredRow,
  stagedToo,
  type OfferGround,
} from '../../core/routines/candidate.ts';
import { DryRun, doesOf, type DryCandidate, type DryFound } from '../../core/routines/dry.ts';
import { narrowingOf } from '../../core/routines/narrow.ts';
import { routineProblem, type Routine, type RoutineKind } from '../../core/routines/routine.ts';
import { offeredStages, standingIn } from '../../core/routines/stage-groups.ts';
import type { Standing } from '../../core/routines/stages.ts';
import { lookedAt } from '../../core/routines/safety.ts';
import { getAccount, settling } from '../account/account.ts';
import { sightsOf } from '../account/queries.ts';
import { db } from '../db/connection.ts';
import { editionOf } from '../engine/edition.ts';
import { nightsOf as nightsEngine } from '../engine/link.ts';
import type { NightFound } from '../engine/night.ts';
import { ServiceError } from '../errors.ts';
import { enqueue, type JobContext } from '../jobs/jobs.ts';
import { takenNames } from '../changes/planned.queries.ts';
import { usualWeeks } from '../hours/index.ts';
import { relevantWords } from '../terms/queries.ts';
import { scopeOf } from './candidates.ts';
import { stagesOf } from './stages.ts';
import { adGroupNames, campaignsSince, pastChanges, type HandChange } from './ground.queries.ts';
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
/** So many nights go by one learning, as they do by day. */
const learningDays = 7;
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
    const run = new DryRun(routine, { from, to });
    const night = await nightsOf(accountId, routine);
    for (let day = from; day <= to; day = addDays(day, 1)) {
      await tell(`${doing}, ${day}`);
      if (run.isDue(day)) {
        run.night(day, await night(day, run));
      } else run.rest(day);
      done++;
    }
    return { nights: run.nights, summary: run.summary() };
  };
  const played = await play(settings, 'as it is set here');
  return { played, saved: saved && (await play(saved, 'as it is saved')) };
}

/** What a routine would have found on a night. */
async function nightsOf(
  accountId: number,
  routine: Routine,
): Promise<(day: Day, run: DryRun) => Promise<DryFound>> {
  const account = await getAccount(db(), accountId);
  const { curve, age, settledTo: settledNow } = await settling(db(), account);
  const today = account.today!;
  const known = knownThen(await sightsOf(db(), accountId), curve, today);
  const changes = await pastChanges(db(), accountId);
  const since = await campaignsSince(db(), accountId);
  const adGroups = await adGroupNames(db(), accountId);
  const campaigns = new Map([...adGroups.values()].map(({ campaignId, campaign }) => [campaignId, campaign]));
  const relevant = await relevantWords(db(), accountId);
  const taken = await takenNames(db(), accountId);
  const edition = await editionOf(accountId);
  const within = await scopeOf(accountId, routine.scope, lookedAt(routine, today, settledNow!));
  const isStaged = routine.kinds.includes('stages');
  const staged = isStaged ? await stagesOf(accountId, routine) : null;
  // Nothing is kept of where campaigns stood then: stages begin with the first night.
  let standing = new Map<string, Standing>();
  const wants = new Set<RoutineKind>([...routine.kinds, ...(isStaged ? stagedToo : [])]);
  const knownOn = (day: Day) => ({
    day,
    settledTo: addDays(day, -age),
    known: known(day, { from: addDays(day, -31), to: day }),
  });
  return async (day, run) => {
    const night = knownOn(day);
    const { settledTo } = night;
    const { played } = run;
    const text = await nightsEngine().night(edition, {
      ...night,
      learnedOn: knownOn(addDays(day, -(daysBetween(run.from, day) % learningDays))),
      window: lookedAt(routine, day, settledTo),
      kinds: [...wants, ...(isStaged ? (['structure'] as const) : [])],
      narrowing: narrowingOf(routine),
      changes,
      played,
      most: mostFindings,
      relevant,
      taken,
      weeks: usualWeeks,
    });
    if (text === null) return { candidates: [], weekSpend: 0, changedOn: () => null };
    const { findings, rows, budgets, sums } = JSON.parse(text) as NightFound;
    const changed = changesUntil(changes, played, day);
    const ground: OfferGround = {
      campaignOf: (id) => campaigns.get(id) ?? id,
      adGroupOf: (id) => adGroups.get(id)?.name ?? id,
      changedOn: (name) => changed.on.get(name) ?? null,
      byHand: (name) => changed.byHand.get(name) ?? null,
      since: (id) => since.get(id) ?? null,
      sums,
    };
    const candidates = [
      ...findings.flatMap(({ finding, ...does }): DryCandidate[] => {
        const offered = within(finding) ? offeredFinding(finding, ground) : null;
        return offered && wants.has(offered.kind) ? [{ ...offered, ...does }] : [];
      }),
      ...rows.flatMap(({ row, ...does }): DryCandidate[] => {
        const offered = within(row) ? offeredRow(row, ground) : null;
        const isWanted = offered && (wants.has(offered.kind) || (isStaged && isStarvedBest(row)));
        return isWanted ? [{ ...offered, ...does }] : [];
      }),
    ].sort(byWorth);
    if (staged) {
      const groups = await staged(budgets, standing, day);
      standing = standingIn(groups);
      // The money of stages comes before what they do with it.
      candidates.unshift(
        ...groups
          .flatMap((group) => offeredStages(group, ground.changedOn))
          .map(({ offered, draft }): DryCandidate => ({ ...offered, ...doesOf([draft]) })),
      );
    }
    return { candidates, weekSpend: (sums.spend / routine.days) * 7, changedOn: ground.changedOn };
  };
}

/** When fields were changed last by a night, by what was played too, and when by a person's hand. */
function changesUntil(changes: readonly HandChange[], played: readonly Played[], night: Day) {
  const [on, byHand] = [new Map<string, Day>(), new Map<string, Day>()];
  const note = (map: Map<string, Day>, name: string, day: Day) => {
    if (day <= night && day > (map.get(name) ?? '')) map.set(name, day);
  };
  for (const { entity, objectId, field, day, byHand: isByHand, isMade } of changes) {
    if (isMade) continue;
    const name = changeName(entity, objectId, field);
    note(on, name, day);
    if (isByHand) note(byHand, name, day);
  }
  for (const { entity, objectId, field, on: day } of played)
    note(on, changeName(entity, objectId, field), day);
  return { on, byHand };
}
