import type { OrganicKeyword, OrganicProductAnswer } from '../../answers/organic.ts';
import { count, money, significant } from '../../core/metrics/format.ts';
import type { Series } from '../../core/organic/follow.ts';

/** What lies on one time axis, from what is paid down to what it may lead to. */

export const laneIds = ['spend', 'sponsored', 'rank', 'searches', 'units', 'revenue'] as const;
export type LaneId = (typeof laneIds)[number];

export interface Lane {
  id: LaneId;
  name: string;
  /** bars: amounts from 0; rank: positions, the first on top, in equal steps for equal factors; line: from 0. */
  kind: 'bars' | 'rank' | 'line';
  series: Series;
  /** The part of the bars that is filled; the rest is outlined. */
  filled?: Series;
  text: (value: number) => string;
}

const added = (all: readonly Series[]): Series =>
  (all[0] ?? []).map((_, day) => {
    const known = all.map((series) => series[day]).filter((value) => value != null);
    return known.length === 0 ? null : known.reduce((sum, value) => sum + value, 0);
  });

/** Lanes of a product, or of one of its keywords. What is not told at all has none. */
export function lanesOf(product: OrganicProductAnswer, keyword: OrganicKeyword | null): Lane[] {
  const { spend, seen, units, organicSales, adSales, keywords } = product;
  const revenue = added([organicSales, adSales]);
  const position = (value: number) => `position ${count(value)}`;
  const lanes: Lane[] = [
    {
      id: 'spend',
      name: keyword ? `Spend on “${keyword.keyword}”` : 'Ad spend',
      kind: 'bars',
      series: keyword?.spend ?? spend,
      text: money,
    },
    ...(keyword
      ? ([
          {
            id: 'sponsored',
            name: 'Sponsored rank',
            kind: 'rank',
            series: keyword.sponsoredRank,
            text: position,
          },
          { id: 'rank', name: 'Organic rank', kind: 'rank', series: keyword.organicRank, text: position },
        ] as Lane[])
      : ([
          {
            id: 'rank',
            name: 'Searches that see it',
            kind: 'line',
            series: seen,
            text: (value: number) => `${significant(value)} a day`,
          },
        ] as Lane[])),
    {
      id: 'searches',
      name: 'Search volume',
      kind: 'line',
      series: keyword?.volume ?? added(keywords.map(({ volume }) => volume)),
      text: (value) => `${count(value)} searches`,
    },
    { id: 'units', name: 'Units', kind: 'bars', series: units, text: (value) => `${count(value)} units` },
    {
      id: 'revenue',
      name: 'Total revenue',
      kind: 'bars',
      series: revenue,
      filled: organicSales,
      text: money,
    },
  ];
  return lanes.filter(({ series }) => series.some((value) => value !== null));
}

export type Lags = Partial<Record<LaneId, number>>;

/** Days by which a lane may be moved. */
export const mostLag = 28;

/** Lags as the address keeps them: `rank:3,revenue:5`. What is not one is left out. */
export function readLags(text: string | null): Lags {
  const lags: Lags = {};
  for (const part of (text ?? '').split(',')) {
    const [name, days] = part.split(':');
    const id = laneIds.find((one) => one === name);
    const lag = Number(days);
    if (id && Number.isInteger(lag) && lag !== 0 && Math.abs(lag) <= mostLag) lags[id] = lag;
  }
  return lags;
}

export const writeLags = (lags: Lags): string | null =>
  laneIds.flatMap((id) => (lags[id] ? [`${id}:${lags[id]}`] : [])).join(',') || null;

/** "3 days later", as the lane's own days lie beside the others. */
export const lagText = (lag: number): string =>
  `${Math.abs(lag)} ${Math.abs(lag) === 1 ? 'day' : 'days'} ${lag > 0 ? 'later' : 'earlier'}`;
