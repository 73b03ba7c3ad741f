import type { Day, Window } from '../metrics/days.ts';
import { acos, cpc, cvr, type Sums } from '../metrics/figures.ts';
import { counted, money, percent } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import type { Moved } from '../movers/split.ts';
import { partsSaid } from '../movers/waterfall.ts';
import type { Landing } from '../pace/landing.ts';

/** A report on a period for whoever pays for the ads: its figures as they stood on the day it was made, and words. */

export type ReportSums = Sums & { totalSales: Micros | null };

export interface ReportFigures {
  account: string;
  currency: string;
  window: Window;
  compare: Window;
  settledTo: Day;
  targetAcos: number;
  now: ReportSums;
  before: ReportSums;
  moved: (Pick<Moved, 'figure' | 'before' | 'after' | 'parts'> & {
    members: { name: string; change: number; parts: Moved['parts'] }[];
  })[];
  pace: { label: string; landing: Landing; plan: Micros | null }[];
  month: Window['from'];
  sheets: {
    sentOn: Day;
    lines: number;
    scored: number;
    said: { sales: Micros; spend: Micros };
    seen: { sales: Micros; spend: Micros };
  }[];
  notes: { day: Day; toDay: Day; name: string; body: string }[];
}

export interface Report {
  reportId: number;
  madeOn: Day;
  words: string;
  figures: ReportFigures;
}

/** A figure of a report: its values in both periods as text, and the change in words. */
export interface ReportLine {
  label: string;
  now: string;
  before: string;
  change: string;
}

const share = (part: number | null, whole: number | null): number | null =>
  part === null || whole === null || whole <= 0 ? null : part / whole;

const lines: { label: string; of: (sums: ReportSums) => number | null; text: (value: number) => string }[] = [
  { label: 'Spend', of: ({ spend }) => spend, text: money },
  { label: 'Ad sales', of: ({ sales }) => sales, text: money },
  { label: 'ACOS', of: (sums) => acos(sums), text: percent },
  { label: 'Orders', of: ({ orders }) => orders, text: String },
  { label: 'CPC', of: (sums) => cpc(sums), text: money },
  { label: 'CVR', of: (sums) => cvr(sums), text: percent },
  { label: 'Total sales', of: ({ totalSales }) => totalSales, text: money },
  { label: 'TACOS', of: ({ spend, totalSales }) => share(spend, totalSales), text: percent },
  {
    label: 'Organic share',
    of: ({ sales, totalSales }) => share(totalSales === null ? null : totalSales - sales, totalSales),
    text: percent,
  },
];

/** A change in words: of shares in points, of all else per cent. */
function changeSaid(now: number | null, before: number | null, isShare: boolean): string {
  if (now === null || before === null || !Number.isFinite(now) || !Number.isFinite(before)) return '–';
  const sign = now >= before ? '+' : '−';
  if (isShare) return `${sign}${Math.abs((now - before) * 100).toFixed(1)} points`;
  return before === 0 ? '–' : `${sign}${Math.abs((now / before - 1) * 100).toFixed(1)} %`;
}

export const reportLines = ({ now, before }: Pick<ReportFigures, 'now' | 'before'>): ReportLine[] =>
  lines.map(({ label, of, text }) => {
    const [a, b] = [of(now), of(before)];
    const say = (value: number | null) =>
      value === null ? '–' : Number.isFinite(value) ? text(value) : 'no sales';
    return { label, now: say(a), before: say(b), change: changeSaid(a, b, text === percent) };
  });

/** What a report begins with: its figures in a few sentences, to be written on. */
export function usualWords(figures: ReportFigures): string {
  const { now, before, targetAcos, moved, pace, sheets } = figures;
  const own = acos(now);
  const sales = moved.find(({ figure }) => figure === 'sales');
  const change = now.sales - before.sales;
  const said = [
    own === null || !Number.isFinite(own)
      ? `${money(now.spend)} was spent, and nothing was sold through ads.`
      : `${money(now.spend)} of ads sold ${money(now.sales)}, an ACOS of ${percent(own)}: ${own > targetAcos ? 'over' : 'under'} the goal of ${percent(targetAcos)}.`,
  ];
  if (sales && sales.before !== null && sales.after !== null)
    said.push(
      `Ad sales ${change >= 0 ? 'rose' : 'fell'} by ${money(Math.abs(change))}: ${partsSaid('sales', sales.parts)}.`,
    );
  const planned = pace.filter(({ plan }) => plan !== null && plan > 0);
  for (const { label, landing, plan } of planned)
    said.push(
      `${label} of the month lands at ${money(landing.middle)}, ${percent(landing.middle / plan!)} of what is planned.`,
    );
  const sent = sheets.reduce((sum, one) => sum + one.lines, 0);
  if (sent > 0) said.push(`${counted(sent, 'change')} went to the marketplace.`);
  return said.join(' ');
}
