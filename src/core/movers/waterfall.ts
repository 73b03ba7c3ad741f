import type { FactorName, Moved, Parts, SplitFigure } from './split.ts';
import { signedMoney } from '../metrics/format.ts';

/** What moved a figure as steps from one pillar to the other, and in words. */

export const partNames: Record<keyof Parts, string> = {
  clicks: 'clicks',
  cpc: 'CPC',
  cvr: 'CVR',
  aov: 'AOV',
  mix: 'mix',
  came: 'came',
  went: 'went',
} satisfies Record<FactorName | 'mix' | 'came' | 'went', string>;

/** Parts in their order, those that are nothing left out. */
export const partsOf = (parts: Parts): [keyof Parts, number][] =>
  (Object.keys(partNames) as (keyof Parts)[]).flatMap((name) =>
    parts[name] === undefined || Math.abs(parts[name]) < 1e-12
      ? []
      : [[name, parts[name]] as [keyof Parts, number]],
  );

/**
 * A part as it is written: money, or points of ACOS.
 * @example partText('acos', -0.0123) // '−1.23 points'
 */
export const partText = (figure: SplitFigure, value: number): string =>
  figure === 'acos'
    ? `${value < 0 ? '−' : '+'}${Math.abs(value * 100).toFixed(2)} points`
    : signedMoney(Math.round(value));

/** What a part came from, in a sentence. */
export const partSaid = (name: keyof Parts): string =>
  name === 'came'
    ? 'what came'
    : name === 'went'
      ? 'what went'
      : name === 'mix'
        ? 'the mix of money'
        : partNames[name];

/** Parts in words, the largest first: "−3,935.91 from clicks, −1,912.30 from CVR". */
export const partsSaid = (figure: SplitFigure, parts: Parts): string =>
  partsOf(parts)
    .sort(([, a], [, b]) => Math.abs(b) - Math.abs(a))
    .map(([name, value]) => `${partText(figure, value)} from ${partSaid(name)}`)
    .join(', ');

/** A pillar, or a step from where the one before it ended. */
export interface WaterfallBar {
  name: string;
  from: number;
  to: number;
  isWhole: boolean;
  /** Better for who pays: more sold, less spent, a lower ACOS. */
  isGain: boolean;
}

export interface WaterfallPicture {
  bars: WaterfallBar[];
  /** The value at which the picture begins: above nothing where pillars are cut to show what moved. */
  floor: number;
  high: number;
}

/** Steps from before to after; null where one of both is none. */
export function waterfallOf({
  figure,
  before,
  after,
  parts,
}: Pick<Moved, 'figure' | 'before' | 'after' | 'parts'>): WaterfallPicture | null {
  if (before === null || after === null) return null;
  let at = before;
  const bars: WaterfallBar[] = [
    { name: 'before', from: 0, to: before, isWhole: true, isGain: false },
    ...partsOf(parts).map(([name, value]): WaterfallBar => {
      const from = at;
      at += value;
      return {
        name: partNames[name],
        from,
        to: at,
        isWhole: false,
        isGain: figure === 'sales' ? value > 0 : value < 0,
      };
    }),
    { name: 'after', from: 0, to: after, isWhole: true, isGain: false },
  ];
  const values = bars.flatMap(({ from, to, isWhole }) => (isWhole ? [to] : [from, to]));
  const [low, high] = [Math.min(...values), Math.max(...values)];
  // What moved is what is looked at: pillars are cut where nothing happens.
  const floor = low > 0 && (high - low) / high < 0.5 ? low - (high - low) * 0.35 : Math.min(0, low);
  return { bars, floor, high };
}
