import type { ForecastsAnswer, KindOfForecast } from '../../answers/forecasts.ts';
import { lastForecasts, scoreForecast, wideningOf, type WeekSums } from '../../core/effect/forecast.ts';
import { isHoursKey } from '../../core/hours/lines.ts';
import { isPlacementKey } from '../../core/placements/lines.ts';
import { addDays, daysBetween, type Day, type Window } from '../../core/metrics/days.ts';
import { dayWeights } from '../../core/metrics/weights.ts';
import type { Effect } from '../../core/effect/types.ts';
import type { Model } from '../../core/effect/model.ts';
import { getAccount, settling } from '../account/account.ts';
import { db, type Database } from '../db/connection.ts';
import { blockedSums } from '../facts/blocked.queries.ts';
import { modelDays } from '../account/model.queries.ts';
import { controlsOf, type Control } from './control.ts';
import {
  forecastRows,
  keepForecasts,
  saidBeside,
  sentLines,
  sumsOfLines,
  type ForecastRow,
  type LineSpan,
  type SentLine,
} from './queries.ts';

/** Forecasts that score themselves: what sent lines were said to do against what came (domain, section 11). */

/** Lines sent longer ago have their score. */
const scoredWithin = 90;
/** Most weeks on either side of a change. */
const mostWeeks = 4;

export const kinds = ['raise', 'cut', 'negative', 'harvest', 'placements', 'budget', 'hours'] as const;
export type ForecastKind = (typeof kinds)[number];

const kindOf = ({
  entity,
  action,
  field,
  old_value,
  new_value,
  finding_key,
  is_whole,
}: SentLine): ForecastKind => {
  if (is_whole && (field === 'schedule' || isHoursKey(finding_key ?? ''))) return 'hours';
  if (is_whole)
    return entity === 'placement_modifier' || isPlacementKey(finding_key ?? '') ? 'placements' : 'budget';
  if (entity === 'negative') return 'negative';
  if (action === 'create') return 'harvest';
  return Number(new_value) > Number(old_value) ? 'raise' : 'cut';
};

/** Whole settled weeks since a line was sent in which nothing else changed what it touched, at most four. */
function weeksOf({ sent_on, changed_again }: SentLine, settledTo: Day): number {
  const last = changed_again !== null && changed_again <= settledTo ? changed_again : settledTo;
  return Math.min(mostWeeks, Math.floor(daysBetween(sent_on, last) / 7));
}

/** What bids and terms rest on: whole campaigns are known otherwise, and widen nothing else. */
const single = (rows: readonly ForecastRow[]): ForecastRow[] =>
  rows.filter(({ kind }) => kind !== 'placements' && kind !== 'budget' && kind !== 'hours');

/** How far past forecasts missed: the factor on the intervals of new ones. */
export const wideningNow = async (sql: Database, accountId: number): Promise<number> =>
  wideningOf(single(await forecastRows(sql, accountId, lastForecasts)));

/** Scores every forecast that has more whole settled weeks behind it than when it was scored last. */
export async function scoreForecasts(sql: Database, accountId: number): Promise<void> {
  const account = await getAccount(sql, accountId);
  const { settledTo } = await settling(sql, account);
  if (account.today === null || settledTo === null) return;
  const due = (await sentLines(sql, accountId, addDays(account.today, -scoredWithin)))
    .map((line) => ({ line, weeks: weeksOf(line, settledTo) }))
    .filter(({ line, weeks }) => weeks >= 1 && weeks > (line.weeks ?? 0));
  if (due.length === 0) return;
  const spans = (side: 'before' | 'after'): LineSpan[] =>
    due.map(({ line, weeks }) => ({
      line_id: line.line_id,
      ...sideOf(line.sent_on, side === 'before' && line.is_whole ? mostWeeks : weeks)[side],
    }));
  const sums = async (side: 'before' | 'after') =>
    new Map((await sumsOfLines(sql, accountId, spans(side))).map((row) => [row.line_id, row]));
  const [before, after] = [await sums('before'), await sums('after')];
  const beside = await saidBeside(
    sql,
    accountId,
    due.flatMap(({ line }) => (line.is_whole ? [line.line_id] : [])),
  );
  const widening = await wideningNow(sql, accountId);
  const spanOf = (sentOn: Day, weeks: number) => ({ on: sentOn, days: 7 * weeks });
  const spansDue = new Map(
    due.map(({ line, weeks }) => [`${line.sent_on}|${weeks}`, spanOf(line.sent_on, weeks)]),
  );
  const controlOf = await controlsOf(sql, accountId, [...spansDue.values()]);
  const controls = new Map<string, Control>();
  const blocked = new Map<string, Map<string, number>>();
  const rows: ForecastRow[] = [];
  for (const { line, weeks } of due) {
    const sides = sideOf(line.sent_on, weeks);
    const key = `${line.sent_on}|${weeks}`;
    let control = controls.get(key);
    if (!control) {
      controls.set(key, (control = controlOf(spanOf(line.sent_on, weeks))));
      blocked.set(key, await blockedClicks(sql, accountId, sides.before));
    }
    const others = beside.get(line.line_id);
    const was = line.is_whole
      ? expectedOf(before.get(line.line_id) ?? nothing, weeks, others?.said ?? nothing)
      : (before.get(line.line_id) ?? nothing);
    const lost =
      line.entity === 'target' && line.action === 'update' && !line.is_whole
        ? (blocked.get(key)!.get(line.object_id ?? '') ?? 0)
        : 0;
    const score = scoreForecast(
      withOthers(line.effect, others?.salesVariance ?? 0),
      was,
      after.get(line.line_id) ?? nothing,
      weeks,
      {
        // Of a whole campaign, bids moved alike: nothing of it takes from the rest.
        trend: control.trend * (line.is_whole ? 1 : control.shiftOf(line, was.clicks)),
        kept: was.clicks > 0 ? Math.max(0, 1 - lost / was.clicks) : 1,
        widening,
      },
    );
    const { from, to } = sides.after;
    rows.push({
      line_id: line.line_id,
      kind: kindOf(line),
      from_day: from,
      to_day: to,
      weeks,
      ...score,
      scored_on: account.today,
    });
  }
  await keepForecasts(sql, accountId, rows);
}

/**
 * The weeks that a campaign is held against: its four weeks before, with what the other lines of its sheet were said to
 * bring. One line's own week would hang on the days that it was made for.
 */
const expectedOf = (fourWeeks: WeekSums, weeks: number, others: WeekSums): WeekSums => {
  const at = (name: keyof WeekSums) => weeks * Math.max(0, fourWeeks[name] / mostWeeks + others[name]);
  return { clicks: at('clicks'), spend: at('spend'), orders: at('orders'), sales: at('sales') };
};

/** An effect whose sales are as little known as those of the lines beside it make them. */
const withOthers = (effect: Effect, salesVariance: number): Effect => {
  const known = effect.after ?? effect.spreads;
  return known && salesVariance > 0
    ? { ...effect, after: { ...known, sales: Math.hypot(known.sales, Math.sqrt(salesVariance)) } }
    : effect;
};

const nothing: WeekSums = { clicks: 0, spend: 0, orders: 0, sales: 0 };

/** Whole weeks on both sides of a day that belongs to neither. */
const sideOf = (sentOn: Day, weeks: number) => ({
  before: { from: addDays(sentOn, -7 * weeks), to: addDays(sentOn, -1) },
  after: { from: addDays(sentOn, 1), to: addDays(sentOn, 7 * weeks) },
});

/** Clicks by target of terms that a negative keeps from it by now, in the weeks before. */
async function blockedClicks(sql: Database, accountId: number, days: Window): Promise<Map<string, number>> {
  const whole = dayWeights(days, days, days.to, [1]);
  const rows = await blockedSums(sql, accountId, whole, [], [], days.to);
  return new Map(rows.map(({ targetId, clicks }) => [targetId, clicks]));
}

/** The forecast ledger: said against seen, by kind, and how the model did out of sample week by week. */
export async function forecastLedger(accountId: number): Promise<ForecastsAnswer> {
  const rows = await forecastRows(db(), accountId, lastForecasts);
  const models = (await modelDays(db(), accountId)) as unknown as { day: Day; body: Model }[];
  return {
    count: rows.length,
    inside: rows.filter(({ inside }) => inside).length,
    widening: wideningOf(single(rows)),
    kinds: kinds.map((kind) => summed(kind, rows)).filter(({ count }) => count > 0),
    points: rows.map(
      ({ line_id, sheet_id, kind, expression, weeks, to_day, said, seen, spread, inside }) => ({
        lineId: line_id,
        sheetId: sheet_id,
        kind,
        expression,
        weeks,
        toDay: to_day,
        said,
        seen,
        spread,
        inside,
      }),
    ),
    checks: models.flatMap(({ day, body }) =>
      body.check ? [{ ...body.check, day, drift: body.drift, words: body.words }] : [],
    ),
  };
}

function summed(kind: ForecastKind, rows: readonly ForecastRow[]): KindOfForecast {
  const own = rows.filter((row) => row.kind === kind);
  const add = (side: 'said' | 'seen') =>
    own.reduce<WeekSums>(
      (sum, row) => ({
        clicks: sum.clicks + row[side].clicks,
        spend: sum.spend + row[side].spend,
        orders: sum.orders + row[side].orders,
        sales: sum.sales + row[side].sales,
      }),
      nothing,
    );
  return {
    kind,
    count: own.length,
    said: add('said'),
    seen: add('seen'),
    spread: Math.sqrt(own.reduce((sum, { spread }) => sum + spread.sales ** 2, 0)),
    inside: own.filter(({ inside }) => inside).length,
  };
}
