import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { splitChange } from '../movers/split.ts';
import { escaped, reportBody, reportHtml } from './html.ts';
import { reportLines, usualWords, type ReportFigures } from './report.ts';

const sums = (clicks: number, spend: number, orders: number, sales: number, totalSales: number | null) => ({
  impressions: clicks * 20,
  clicks,
  spend: micros(spend),
  orders,
  units: orders,
  sales: micros(sales),
  totalSales: totalSales === null ? null : micros(totalSales),
});
const [before, now] = [sums(100, 50, 10, 200, 1000), sums(50, 40, 10, 250, 1000)];
const moved = splitChange('sales', [{ key: 'Lids & <co>', before, after: now }]);
const figures: ReportFigures = {
  account: 'Tarn <b>& sons</b>',
  currency: 'EUR',
  window: { from: '2026-05-01', to: '2026-05-31' },
  compare: { from: '2026-03-31', to: '2026-04-30' },
  settledTo: '2026-05-31',
  targetAcos: 0.2,
  now,
  before,
  moved: [{ ...moved, members: moved.members.map(({ key, ...one }) => ({ name: key, ...one })) }],
  pace: [
    {
      label: 'Spend',
      landing: { done: micros(40), middle: micros(60), low: micros(55), high: micros(66), left: 10 },
      plan: micros(50),
    },
  ],
  month: '2026-05-01',
  sheets: [
    {
      sentOn: '2026-05-04',
      lines: 3,
      scored: 2,
      said: { sales: micros(12), spend: 0 },
      seen: { sales: micros(9), spend: 0 },
    },
  ],
  notes: [{ day: '2026-05-02', toDay: '2026-05-05', name: '', body: 'Promotion "3 for 2"' }],
};

describe('a report', () => {
  test('its figures, by hand, with changes in per cent and in points', () => {
    const lines = Object.fromEntries(reportLines(figures).map(({ label, ...line }) => [label, line]));
    expect(lines['Ad sales']).toEqual({ now: '250.00', before: '200.00', change: '+25.0 %' });
    expect(lines.ACOS).toEqual({ now: '16 %', before: '25 %', change: '−9.0 points' });
    expect(lines['Organic share']).toEqual({ now: '75 %', before: '80 %', change: '−5.0 points' });
    const untold = reportLines({ now: sums(1, 1, 0, 0, null), before });
    expect(untold.find(({ label }) => label === 'ACOS')!.now).toBe('no sales');
    expect(untold.find(({ label }) => label === 'TACOS')!.now).toBe('–');
  });

  test('begins with words that say its figures', () => {
    expect(usualWords(figures)).toBe(
      '40.00 of ads sold 250.00, an ACOS of 16 %: under the goal of 20 %. Ad sales rose by 50.00: −155.31 from clicks, ' +
        '+155.31 from CVR, +50.00 from AOV. Spend of the month lands at 60.00, 120 % of what is planned. 3 changes went to the marketplace.',
    );
    expect(usualWords({ ...figures, now: sums(9, 4, 0, 0, null) })).toContain('nothing was sold through ads');
  });

  test('is one page without anything to load, every text in it as text', () => {
    const html = reportHtml({
      reportId: 1,
      madeOn: '2026-06-03',
      words: 'See <script>alert(1)</script>',
      figures,
    });
    expect(html).toContain('Tarn &lt;b&gt;&amp; sons&lt;/b&gt;');
    expect(html).toContain('&lt;script&gt;');
    expect(html).toContain('Promotion &quot;3 for 2&quot;');
    expect(html).toContain('Lids &amp; &lt;co&gt;');
    expect(html).not.toMatch(/<script|https?:|@import|url\(/);
    expect(html).toContain('Figures as of 3 Jun 2026');
    expect(reportBody({ words: '', madeOn: '2026-06-03', figures })).toMatch(/<svg .*role="img"/);
    expect(escaped(`'"<>&`)).toBe('&#39;&quot;&lt;&gt;&amp;');
  });
});
