import { line, median, quantile, scaleLinear, scaleLog } from 'd3';
import { families } from './crowd/families.ts';
import { bestSimple, buckets, coverage, wayNames, type Measured } from './measure.ts';
import type { Played } from './play.ts';
import type { TrueWeek } from './truth.ts';
import type { QuaysidePlayed } from './quayside.ts';

/** The laboratory's report: a page of tables and its pictures, from what was measured. */

/** Seeds above are kept aside while tuning, and so is the last family. */
export const tunedSeeds = 10;
export const isAside = ({ family, seed }: Pick<Measured, 'family' | 'seed'>): boolean =>
  seed > tunedSeeds || family === families[families.length - 1]!.name;

export interface Through {
  family: string;
  seed: number;
  core: number;
  product: number;
  played: Played;
}

const two = (value: number | undefined): string =>
  value === undefined || !Number.isFinite(value) ? '–' : value.toFixed(2);
const percent = (value: number): string => `${Math.round(value * 100)} %`;
const weekOf = ({ spend, sales }: TrueWeek): string => `${Math.round(sales)} at ${percent(spend / sales)}`;
const signed = (value: number): string => `${value < 0 ? '−' : '+'}${Math.abs(Math.round(value))}`;
const spread = (values: number[]): string =>
  `${two(median(values))} (${two(quantile(values, 0.1))} to ${two(quantile(values, 0.9))})`;

const table = (head: string[], rows: (string | number)[][]): string =>
  [head, head.map(() => '---'), ...rows].map((cells) => `| ${cells.join(' | ')} |`).join('\n');

const wayOrder = [
  'do nothing',
  'bands',
  'revenue per click',
  '10 % nightly',
  wayNames.all,
  wayNames.forty,
  wayNames.half,
];

/** Longest run of weeks over the target by more than 10 %, after the first, which began with what was there. */
function longestOver({ ways, targetAcos }: Measured): number {
  let [run, longest] = [0, 0];
  ways[wayNames.all]!.acos.slice(1).forEach((acos) => {
    run = acos > 1.1 * targetAcos ? run + 1 : 0;
    longest = Math.max(longest, run);
  });
  return longest;
}

function section(title: string, rows: Measured[]): string {
  if (rows.length === 0) return '';
  const byFamily = families
    .map(({ name }) => [name, rows.filter(({ family }) => family === name)] as const)
    .filter(([, list]) => list.length > 0);
  const shares = (list: Measured[], way: string) => list.map(({ ways }) => ways[way]!.share);
  const held = (list: Measured[]) => list.map((one) => one.held);
  const bias = (list: Measured[], kind: 'raise' | 'cut') => {
    const sum = list.reduce(
      (total, one) => ({
        said: total.said + one.bias[kind].said / one.best,
        truth: total.truth + one.bias[kind].truth / one.best,
      }),
      { said: 0, truth: 0 },
    );
    return `${sum.said / sum.truth >= 1 ? '+' : '−'}${percent(Math.abs(sum.said / sum.truth - 1))}`;
  };
  const theta = (list: Measured[]) =>
    list.map(({ ways }) => ways[wayNames.half]!.theta.at(-1)! / ways[wayNames.all]!.theta.at(-1)!);
  return `## ${title}

Sales at target as a share of the best that hidden truth allows: median (10th to 90th of the markets).

${table(
  ['way', ...byFamily.map(([name]) => name)],
  wayOrder.map((way) => [way, ...byFamily.map(([, list]) => spread(shares(list, way)))]),
)}

${table(
  ['measure', ...byFamily.map(([name]) => name)],
  [
    ['markets', ...byFamily.map(([, list]) => list.length)],
    [
      '× the best simple way, median',
      ...byFamily.map(([, list]) =>
        two(median(list.map((one) => one.ways[wayNames.all]!.share / bestSimple(one)))),
      ),
    ],
    [
      '× the best simple way, lowest market',
      ...byFamily.map(([, list]) =>
        two(Math.min(...list.map((one) => one.ways[wayNames.all]!.share / bestSimple(one)))),
      ),
    ],
    ['80 % intervals of ACOS that held', ...byFamily.map(([, list]) => two(coverage(held(list))))],
    ...buckets.map((end, i) => [
      `, ${i === 0 ? 'under 5 clicks' : end === Infinity ? '150 clicks and more' : `${buckets[i - 1]} to ${end} clicks`}`,
      ...byFamily.map(([, list]) => two(coverage(held(list), i))),
    ]),
    [
      'verdicts “under” that were right',
      ...byFamily.map(([, list]) =>
        two(
          list.reduce((sum, one) => sum + one.held.under.right, 0) /
            list.reduce((sum, one) => sum + one.held.under.said, 0),
        ),
      ),
    ],
    [
      'expected over true revenue',
      ...byFamily.map(([, list]) =>
        two(list.reduce((sum, one) => sum + one.held.expected / one.held.truth, 0) / list.length),
      ),
    ],
    ['bias of forecast sales, raises', ...byFamily.map(([, list]) => bias(list, 'raise'))],
    ['bias of forecast sales, cuts', ...byFamily.map(([, list]) => bias(list, 'cut'))],
    [
      'theta with half never sent, over all sent (lowest to highest)',
      ...byFamily.map(
        ([, list]) =>
          `${two(median(theta(list)))} (${two(Math.min(...theta(list)))} to ${two(Math.max(...theta(list)))})`,
      ),
    ],
    [
      'markets over target by > 10 % two weeks in a row, after week 1',
      ...byFamily.map(([, list]) => list.filter((one) => longestOver(one) >= 2).length),
    ],
    [
      'of these, doing nothing was too',
      ...byFamily.map(
        ([, list]) =>
          list.filter(
            (one) => longestOver(one) >= 2 && one.ways['do nothing']!.acos[1]! > 1.1 * one.targetAcos,
          ).length,
      ),
    ],
    [
      'changes a week',
      ...byFamily.map(([, list]) =>
        Math.round(median(list.map(({ ways }) => ways[wayNames.all]!.changes / 12)) ?? 0),
      ),
    ],
    [
      'spend of Mowing over that of the best',
      ...byFamily.map(([, list]) =>
        two(median(list.map(({ ways }) => ways[wayNames.all]!.spend / ways.best!.spend))),
      ),
    ],
    [
      'profit at a margin of 50 %, over that of the best',
      ...byFamily.map(([, list]) =>
        two(
          median(
            list.map(
              ({ ways }) =>
                (0.5 * ways[wayNames.all]!.sales - ways[wayNames.all]!.spend) /
                (0.5 * ways.best!.sales - ways.best!.spend),
            ),
          ),
        ),
      ),
    ],
  ],
)}
`;
}

export function reportText(
  rows: Measured[],
  through: Through[],
  quaysides: QuaysidePlayed[],
  seconds: number,
): string {
  const tuned = rows.filter((row) => !isAside(row));
  const aside = rows.filter(isAside);
  return `# Laboratory

\`npm run lab\` plays whole ways of working on markets whose truth is hidden from them: ${families.length} families of markets, ${new Set(rows.map(({ seed }) => seed)).size} seeds
each, twelve weekly rounds. The ways see reports only; Mowing's is the product's own core. A week is scored by what is
to be expected of its bids, so that luck does not decide. *Sales at target*: those of the twelve weeks; a market that ran
over its target loses its sales by the square of the overrun, which is about what spending less would have cost twice.
*Best* sets every bid each week from the truth of that week. The last run took ${Math.round(seconds)} s.

Every target has a crowd of rivals whose values are drawn anew in each auction; the price is the next highest. Conversion
follows gamma, lognormal or two-group laws, some targets never sell, there is a weekly season, rivals and conversion
drift, orders come up to 14 days late, volumes span four decades, products run out. See \`lab/crowd/families.ts\`.

${section(`Kept aside: seeds ${tunedSeeds + 1} and up, and the whole family “${families[families.length - 1]!.name}”`, aside)}
${section(`Seen while tuning: seeds 1 to ${tunedSeeds}`, tuned)}
## Through the running product

The same markets behind HTTP, the built application fetching, judging, sending each week, against the core alone: share
of the best.

${table(
  ['market', 'core', 'product'],
  through.map(({ family, seed, core, product }) => [`${family} ${seed}`, two(core), two(product)]),
)}

## Quayside, other seeds

The marketplace stand-in with other seeds than the demo's, fewer searches and, once, dearer rivals: built application,
every finding of every kind accepted for twelve weeks, beside a twin that is left alone. Sales and spend are from the
marketplace's own books; terms are held against its revealed truth, their common level (placements, hours) taken out.

${table(
  ['measure', ...quaysides.map(({ name }) => name)],
  [
    ['target ACOS', ...quaysides.map(({ targetAcos }) => percent(targetAcos))],
    ['ACOS, left alone', ...quaysides.map(({ acos }) => percent(acos.alone))],
    ['ACOS, Mowing', ...quaysides.map(({ acos }) => percent(acos.mowing))],
    [
      'first sheet, spend a week, said and true',
      ...quaysides.map(
        ({ first }) => `${signed(first.said.spend)} and ${signed(first.after.spend - first.before.spend)}`,
      ),
    ],
    [
      'first sheet, sales a week, said and true',
      ...quaysides.map(
        ({ first }) => `${signed(first.said.sales)} and ${signed(first.after.sales - first.before.sales)}`,
      ),
    ],
    [
      'true ACOS before and after it',
      ...quaysides.map(
        ({ first: { before, after } }) =>
          `${percent(before.spend / before.sales)} and ${percent(after.spend / after.sales)}`,
      ),
    ],
    ['last week, true sales and ACOS, left alone', ...quaysides.map(({ last: { alone } }) => weekOf(alone))],
    ['last week, true sales and ACOS, Mowing', ...quaysides.map(({ last: { own } }) => weekOf(own))],
    ['sales at target over those of the twin', ...quaysides.map(({ share }) => two(share))],
    [
      '80 % intervals of terms in the round that hold the truth',
      ...quaysides.map(({ terms }) => `${two(terms.inside / terms.all)} of ${terms.all}`),
    ],
    [
      'last forecasts that held',
      ...quaysides.map(({ forecasts }) => `${two(forecasts.inside / forecasts.all)} of ${forecasts.all}`),
    ],
    ...(['raise', 'cut'] as const).map((kind) => [
      `change of sales a week, said and seen, all ${kind}s`,
      ...quaysides.map(({ change }) =>
        change[kind] ? `${Math.round(change[kind].said)} and ${Math.round(change[kind].seen)}` : '–',
      ),
    ]),
  ],
)}

## Pictures

![Share of the best, by way and family](lab/shares.svg)

![ACOS over the target, week by week](lab/acos.svg)

![Theta over the target, week by week](lab/theta.svg)

![Intervals that held, by clicks](lab/coverage.svg)
`;
}

const ink = '#17211B';
const soft = '#5d675f';
const colours = ['#1E5B4A', '#2B6F8F', '#B4532A', '#6b5b95', '#8a7a1f', '#444444'];

const frame = (width: number, height: number, title: string, inside: string): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" font-family="sans-serif" font-size="11" fill="${ink}"><rect width="100%" height="100%" fill="#F6F4EE"/><text x="12" y="18" font-size="13" font-weight="bold">${title}</text>${inside}</svg>\n`;

/** Median and middle 80 % of the share of the best, for every way in every family. */
export function sharesPicture(rows: Measured[]): string {
  const [width, row] = [760, 15];
  const x = scaleLinear([0, 1.1], [230, width - 20]);
  let y = 34;
  let inside = [0, 0.25, 0.5, 0.75, 1]
    .map(
      (tick) =>
        `<line x1="${x(tick)}" x2="${x(tick)}" y1="28" y2="${34 + families.length * (wayOrder.length + 1) * row}" stroke="#d8d5cb"/><text x="${x(tick)}" y="${46 + families.length * (wayOrder.length + 1) * row}" text-anchor="middle">${tick}</text>`,
    )
    .join('');
  for (const { name } of families) {
    const list = rows.filter(({ family }) => family === name);
    inside += `<text x="12" y="${y + 4}" font-weight="bold">${name}</text>`;
    for (const way of wayOrder) {
      y += row;
      const values = list.map(({ ways }) => ways[way]!.share);
      if (values.length === 0) continue;
      const colour = way.startsWith('Mowing') ? colours[0]! : soft;
      inside += `<text x="222" y="${y + 4}" text-anchor="end">${way}</text><line x1="${x(quantile(values, 0.1)!)}" x2="${x(Math.min(1.08, quantile(values, 0.9)!))}" y1="${y}" y2="${y}" stroke="${colour}" stroke-width="3" opacity=".4"/><circle cx="${x(median(values)!)}" cy="${y}" r="4" fill="${colour}"/>`;
    }
    y += row;
  }
  return frame(
    width,
    y + 30,
    'Sales at target, share of the best: median and the middle 80 % of markets',
    inside,
  );
}

/** Lines of medians over the weeks, one a family. */
export function weeksPicture(
  rows: Measured[],
  title: string,
  valueOf: (row: Measured, week: number) => number | null,
  low: number,
  high: number,
): string {
  const [width, height] = [760, 300];
  const x = scaleLinear([1, 12], [50, width - 130]);
  const y = scaleLog([low, high], [height - 30, 34]);
  let inside = y
    .ticks(6)
    .map(
      (tick) =>
        `<line x1="50" x2="${width - 130}" y1="${y(tick)}" y2="${y(tick)}" stroke="#d8d5cb"/><text x="44" y="${y(tick) + 4}" text-anchor="end">${tick}</text>`,
    )
    .join('');
  inside += [1, 4, 8, 12]
    .map((week) => `<text x="${x(week)}" y="${height - 12}" text-anchor="middle">week ${week}</text>`)
    .join('');
  families.forEach(({ name }, i) => {
    const list = rows.filter(({ family }) => family === name);
    const points = Array.from({ length: 12 }, (_, week): [number, number] => [
      week + 1,
      median(list.map((row) => valueOf(row, week)).filter((value): value is number => value !== null)) ?? NaN,
    ]).filter(([, value]) => Number.isFinite(value));
    if (points.length === 0) return;
    const path = line<[number, number]>(
      ([week]) => x(week),
      ([, value]) => y(Math.min(high, Math.max(low, value))),
    )(points);
    const last = points[points.length - 1]!;
    inside += `<path d="${path}" fill="none" stroke="${colours[i]}" stroke-width="1.8"/><text x="${x(12) + 8}" y="${y(Math.min(high, Math.max(low, last[1]))) + 4}" fill="${colours[i]}">${name}</text>`;
  });
  return frame(width, height, title, inside);
}

export function coveragePicture(rows: Measured[]): string {
  const [width, height] = [760, 280];
  const x = scaleLinear([0, buckets.length - 1], [80, width - 160]);
  const y = scaleLinear([0.5, 1], [height - 34, 34]);
  const names = ['under 5', '5 to 20', '20 to 50', '50 to 150', '150 and more'];
  let inside = `<rect x="50" width="${width - 180}" y="${y(0.84)}" height="${y(0.78) - y(0.84)}" fill="#2B6F8F" opacity=".15"/>`;
  inside += [0.5, 0.6, 0.7, 0.8, 0.9, 1]
    .map(
      (tick) =>
        `<line x1="50" x2="${width - 130}" y1="${y(tick)}" y2="${y(tick)}" stroke="#d8d5cb"/><text x="44" y="${y(tick) + 4}" text-anchor="end">${tick}</text>`,
    )
    .join('');
  inside += names
    .map((name, i) => `<text x="${x(i)}" y="${height - 14}" text-anchor="middle">${name} clicks</text>`)
    .join('');
  families.forEach(({ name }, i) => {
    const held = rows.filter(({ family }) => family === name).map((row) => row.held);
    if (held.length === 0) return;
    const points = buckets.map((_, bucket): [number, number] => [bucket, coverage(held, bucket)]);
    inside += `<path d="${line<[number, number]>(
      ([at]) => x(at),
      ([, value]) => y(Math.max(0.5, value)),
    )(
      points,
    )}" fill="none" stroke="${colours[i]}" stroke-width="1.8"/><text x="${width - 124}" y="${44 + i * 15}" fill="${colours[i]}">${name}</text>`;
  });
  return frame(
    width,
    height,
    '80 % intervals of revenue per click that held the truth, by weighted clicks',
    inside,
  );
}
