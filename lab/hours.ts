import type { HoursAnswer, ScopeAnswer } from '../src/answers/hours.ts';
import { daysOfWeek, hoursOfDay, hoursOfWeek } from '../src/core/account/schedule.ts';
import type { TimeFactor } from '../src/core/hours/beliefs.ts';
import { beside, hands, type Name, type Sums } from './budgets.ts';
import { judgedDays, openQuayside, type QuaysideMarket } from './quayside.ts';
import { hourConversion, trueWeeks, weekdayConversion, type Structure } from './truth.ts';

/** What times of the week sell, and schedules, against the hidden truth of Quaysides. */

export const hourMarkets: readonly QuaysideMarket[] = [
  { name: 'as the demo', seed: 20260824, searches: 1, rivals: 1, targetAcos: 0.26 },
  { name: 'quiet', seed: 4401, searches: 0.3, rivals: 1, targetAcos: 0.26 },
  { name: 'dear rivals', seed: 4402, searches: 0.7, rivals: 1.5, targetAcos: 0.3 },
];
/** Orders of a week scatter: differences of so many lives tell about 20 of worth. */
const lives = 40;

interface Inside {
  inside: number;
  all: number;
}

export interface HoursPlayed {
  market: QuaysideMarket;
  weeks: number;
  campaigns: number;
  proposals: number;
  /** Factors of campaigns whose 80 % interval holds the truth. */
  weekdays: Inside;
  hours: Inside;
  tried: { way: string; said: Sums | null; seen: Sums; errors: Sums }[];
}

/** From Monday on. */
const trueWeekday = (weekday: number): number => weekdayConversion[(weekday + 1) % daysOfWeek]!;

/** Whether factors hold what times truly sell beside the mean of the campaign's clicks. */
export function insideOf(
  factors: readonly TimeFactor[],
  truth: readonly number[],
  clicks: readonly number[],
): Inside {
  const all = clicks.reduce((sum, one) => sum + one, 0);
  const mean = truth.reduce((sum, one, at) => sum + one * clicks[at]!, 0) / all;
  const inside = factors.filter(
    ({ factor, spread }, at) => Math.abs(Math.log(factor / (truth[at]! / mean))) <= 1.2816 * spread,
  );
  return { inside: inside.length, all: factors.length };
}

export async function playHours(
  market: QuaysideMarket,
  database: (name: string) => Promise<string>,
  home: string,
): Promise<HoursPlayed> {
  const opened = await openQuayside(market, database, home);
  const { call, quaysideBooks } = opened;
  try {
    const { query } = await judgedDays(opened);
    const answer = await call<HoursAnswer>('GET', `/api/1/spend/hours?${query}`);
    const theta = { sum: 0, spend: 0 };
    const held = { weekdays: { inside: 0, all: 0 }, hours: { inside: 0, all: 0 } };
    for (const { campaignId } of answer.campaigns) {
      const scope = await call<ScopeAnswer>(
        'GET',
        `/api/1/spend/hours/scope?${query}&of=campaign:${campaignId}`,
      );
      if (!scope.ground || scope.ground.clicks.every((one) => one === 0)) continue;
      const { clicks, factors, spend } = scope.ground;
      const weight = spend.reduce((sum, one) => sum + one, 0);
      theta.sum += weight * scope.ground.theta;
      theta.spend += weight;
      const summed = (length: number, partOf: (at: number) => number) => {
        const sums = Array<number>(length).fill(0);
        for (let at = 0; at < hoursOfWeek; at++) sums[partOf(at)]! += clicks[at]!;
        return sums;
      };
      const add = (to: Inside, { inside, all }: Inside) => {
        to.inside += inside;
        to.all += all;
      };
      const weekdays = Array.from({ length: daysOfWeek }, (_, weekday) => trueWeekday(weekday));
      const hours = Array.from({ length: hoursOfDay }, (_, hour) => hourConversion(hour));
      add(
        held.weekdays,
        insideOf(
          factors.weekdays,
          weekdays,
          summed(daysOfWeek, (at) => Math.floor(at / hoursOfDay)),
        ),
      );
      add(
        held.hours,
        insideOf(
          factors.hours,
          hours,
          summed(hoursOfDay, (at) => at % hoursOfDay),
        ),
      );
    }
    const tried = await tryWays(theta.sum / theta.spend, answer, (trial) =>
      trueWeeks(quaysideBooks, { lives, ...trial }),
    );
    process.stdout.write(`Quayside ${market.name}: schedules tried\n`);
    return {
      market,
      weeks: answer.weeks,
      campaigns: answer.campaigns.length,
      proposals: answer.campaigns.filter(({ isFinding }) => isFinding).length,
      ...held,
      tried,
    };
  } finally {
    await opened.stop();
  }
}

async function tryWays(
  theta: number,
  { campaigns }: HoursAnswer,
  live: (trial: { change?: (structure: Structure) => void }) => ReturnType<typeof trueWeeks>,
): Promise<HoursPlayed['tried']> {
  const found = campaigns.filter(({ isFinding }) => isFinding);
  const total = (of: (one: (typeof found)[number]) => number) => found.reduce((sum, one) => sum + of(one), 0);
  const said: Sums = {
    clicks: total(({ proposal }) => proposal!.effect.clicks),
    spend: total(({ proposal }) => proposal!.effect.spend) / 1e6,
    sales: total(({ proposal }) => proposal!.effect.sales) / 1e6,
    worth: total(({ proposal }) => proposal!.worth) / 1e6,
  };
  const take = (withBids: boolean) => (structure: Structure) => {
    const { schedule, bids } = hands(structure);
    for (const { name, proposal } of found) {
      schedule(name, proposal!.schedule);
      if (withBids && proposal!.beta !== 1) bids(name, proposal!.beta);
    }
  };
  const alone = await live({});
  return [
    { way: 'as proposed', said, ...beside(await live({ change: take(true) }), alone, theta) },
    {
      way: 'schedules alone, bids as they are',
      said: null,
      ...beside(await live({ change: take(false) }), alone, theta),
    },
  ];
}

const round = (value: number): string => value.toFixed(0);
const part = ({ inside, all }: Inside): string => (inside / all).toFixed(2);

export function hoursText(played: readonly HoursPlayed[]): string {
  const parts = played.map(({ market, weeks, campaigns, proposals, weekdays, hours, tried }) => {
    const rows = tried.map(({ way, said, seen, errors }) => {
      const cell = (name: Name) =>
        `${said ? `${round(said[name])} / ` : ''}${round(seen[name])} ± ${round(errors[name])}`;
      return `| ${way} | ${cell('clicks')} | ${cell('spend')} | ${cell('sales')} | ${cell('worth')} |`;
    });
    return `## ${market.name}

${weeks} weeks, ${campaigns} campaigns, ${proposals} schedules proposed. The 80 % interval of a campaign's weekdays holds the truth in ${part(weekdays)} of
${weekdays.all}, that of its hours in ${part(hours)} of ${hours.all}.

| way | clicks | spend | sales | worth at θ |
| --- | --- | --- | --- | --- |
${rows.join('\n')}`;
  });
  return `# Days and hours in the laboratory

\`npm run lab -- --only=hours\`: Quaysides with 60 days behind them, whose shoppers buy less on Sundays and by night, and a little more in the
evening. What Mowing says of weekdays and hours is held against that, and all schedules that it proposes at once are lived with over
${lives} lives of the next week by the same shoppers as without; what changes a week (said / seen ± standard error).

${parts.join('\n\n')}
`;
}
