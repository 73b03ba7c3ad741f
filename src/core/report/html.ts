import { counted, money, percent, signedMoney } from '../metrics/format.ts';
import { partsSaid, partText, waterfallOf } from '../movers/waterfall.ts';
import { reportLines, type Report, type ReportFigures } from './report.ts';

/** A report as one page that prints: no script, nothing to load. */

const escapes: Record<string, string> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};

/**
 * Text as HTML shows it.
 * @example escaped('<b> & "c"') // '&lt;b&gt; &amp; &quot;c&quot;'
 */
export const escaped = (text: string): string => text.replace(/[&<>"']/g, (sign) => escapes[sign]!);

const dayNames = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
});
const said = (day: string): string => dayNames.format(new Date(`${day}T00:00:00Z`));

export const reportStyle = `
.report { color: #17211b; background: #fff; font: 13px/1.5 "Public Sans Variable", "Public Sans", system-ui, sans-serif; max-width: 720px; margin: 0 auto; padding: 24px; font-variant-numeric: tabular-nums; }
.report h1 { font-size: 22px; line-height: 1.2; margin: 0 0 2px; }
.report h2 { font-size: 13px; margin: 18px 0 4px; padding-bottom: 2px; border-bottom: 1px solid #17211b; }
.report p { margin: 6px 0; }
.report .soft { color: #5b655e; }
.report .words { font-size: 14px; white-space: pre-wrap; }
.report table { border-collapse: collapse; width: 100%; }
.report td, .report th { text-align: right; font-weight: 400; padding: 2px 0 2px 12px; border-bottom: 1px solid #dedbd1; vertical-align: top; }
.report td:first-child, .report th:first-child { text-align: left; padding-left: 0; }
.report thead th { color: #5b655e; }
.report td.long { text-align: left; color: #5b655e; }
.report svg { display: block; max-width: 100%; margin: 6px 0; }
@page { size: A4; margin: 14mm; }
@media print { .report { padding: 0; max-width: none; } .report section { break-inside: avoid; } }
`;

const table = (head: readonly string[], rows: readonly (readonly string[])[], long = -1): string =>
  `<table><thead><tr>${head.map((cell) => `<th scope="col">${escaped(cell)}</th>`).join('')}</tr></thead><tbody>${rows
    .map(
      (row) =>
        `<tr>${row.map((cell, at) => `<td${at === long ? ' class="long"' : ''}>${escaped(cell)}</td>`).join('')}</tr>`,
    )
    .join('')}</tbody></table>`;

const section = (title: string, inside: string): string =>
  `<section><h2>${escaped(title)}</h2>${inside}</section>`;

const [width, height] = [672, 170];

/** The steps from before to after, as a picture that stands by itself. */
function picture(moved: ReportFigures['moved'][number]): string {
  const made = waterfallOf(moved);
  if (!made) return '';
  const { bars, floor, high } = made;
  const step = width / bars.length;
  const thick = 0.7 * step;
  const [bottomEdge, topEdge] = [height - 20, 18];
  const y = (value: number) =>
    Math.round(10 * (bottomEdge - ((value - floor) / (high - floor || 1)) * (bottomEdge - topEdge))) / 10;
  const isAcos = moved.figure === 'acos';
  const parts = bars.map(({ name, from, to, isWhole, isGain }, at) => {
    const [top, bottom] = isWhole ? [y(to), y(floor)] : [y(Math.max(from, to)), y(Math.min(from, to))];
    const left = Math.round(10 * (at * step + (step - thick) / 2)) / 10;
    const next = bars[at + 1];
    const value = isWhole
      ? isAcos
        ? percent(to)
        : money(to)
      : isAcos
        ? partText('acos', to - from).replace(' points', '')
        : signedMoney(Math.round(to - from));
    const colour = isGain ? '#2b6f8f' : '#b4532a';
    return (
      `<rect x="${left}" y="${top}" width="${thick}" height="${Math.max(1, bottom - top)}" ` +
      `fill="${isWhole ? '#bfc3bb' : isGain ? colour : '#fff'}" stroke="${isWhole ? 'none' : colour}"/>` +
      (next
        ? `<line x1="${left + thick}" x2="${left + step}" y1="${y(to)}" y2="${y(to)}" stroke="#6a6f6b" stroke-dasharray="2 2"/>`
        : '') +
      `<text x="${left + thick / 2}" y="${top - 4}" text-anchor="middle" font-size="11">${escaped(value)}</text>` +
      `<text x="${left + thick / 2}" y="${height - 5}" text-anchor="middle" font-size="11" fill="#5b655e">${escaped(name)}</text>`
    );
  });
  const cut = floor > 0 ? '<p class="soft">The pillars begin above nothing.</p>' : '';
  return `<svg width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" role="img" aria-label="${escaped(
    partsSaid(moved.figure, moved.parts),
  )}">${parts.join('')}</svg>${cut}`;
}

const figureNames = { sales: 'Ad sales', spend: 'Spend', acos: 'ACOS' };

function movedPart(moved: ReportFigures['moved'][number]): string {
  const { figure, before, after, parts, members } = moved;
  if (before === null || after === null) return '';
  const change = after - before;
  return section(
    `What moved ${figure === 'acos' ? 'ACOS' : figureNames[figure].toLowerCase()}`,
    `<p>${escaped(
      `${figureNames[figure]} ${change >= 0 ? 'rose' : 'fell'} by ${
        figure === 'acos' ? partText('acos', Math.abs(change)).slice(1) : money(Math.abs(change))
      }: ${partsSaid(figure, parts)}.`,
    )}</p>${picture(moved)}${table(
      ['Most of it', 'Change', 'From'],
      members.map((one) => [one.name, partText(figure, one.change), partsSaid(figure, one.parts)]),
      2,
    )}`,
  );
}

/** The page without its frame: to be shown within another. */
export function reportBody({ words, madeOn, figures }: Pick<Report, 'words' | 'madeOn' | 'figures'>): string {
  const { account, currency, window, compare, settledTo, moved, pace, month, sheets, notes } = figures;
  const parts = [
    `<h1>${escaped(account)}</h1>`,
    `<p class="soft">${said(window.from)} to ${said(window.to)}, against ${said(compare.from)} to ${said(compare.to)}. ${escaped(currency)}.</p>`,
    `<p class="words">${escaped(words)}</p>`,
    section(
      'Figures',
      table(
        ['', 'This period', 'The one before', 'Change'],
        reportLines(figures).map(({ label, now, before, change }) => [label, now, before, change]),
      ),
    ),
    ...moved.map(movedPart),
  ];
  if (pace.length > 0)
    parts.push(
      section(
        `The month from ${said(month)}`,
        table(
          ['', 'So far', 'Lands at', '80 % between', 'Planned'],
          pace.map(({ label, landing, plan }) => [
            label,
            money(landing.done),
            money(landing.middle),
            `${money(landing.low)} and ${money(landing.high)}`,
            plan === null ? '–' : money(plan),
          ]),
        ),
      ),
    );
  if (sheets.length > 0)
    parts.push(
      section(
        'What was changed',
        table(
          ['Sent', 'Lines', 'Sales a week, said', 'and seen'],
          sheets.map(({ sentOn, lines, scored, said: told, seen }) => [
            said(sentOn),
            counted(lines, 'line'),
            scored === 0 ? 'its weeks settle' : signedMoney(Math.round(told.sales)),
            scored === 0 ? '' : signedMoney(Math.round(seen.sales)),
          ]),
        ),
      ),
    );
  if (notes.length > 0)
    parts.push(
      section(
        'Notes',
        notes
          .map(
            ({ day, toDay, name, body }) =>
              `<p><span class="soft">${said(day)}${toDay > day ? ` to ${said(toDay)}` : ''}</span> ${escaped(body)}${name === '' ? '' : ` <span class="soft">· ${escaped(name)}</span>`}</p>`,
          )
          .join(''),
      ),
    );
  parts.push(
    `<p class="soft">Figures as of ${said(madeOn)}; orders are settled up to ${said(settledTo)}, later ones still come in.</p>`,
  );
  return `<article class="report">${parts.join('')}</article>`;
}

/** The whole page. */
export const reportHtml = (report: Report): string =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">` +
  `<title>${escaped(report.figures.account)}, ${report.figures.window.from} to ${report.figures.window.to}</title>` +
  `<style>${reportStyle}</style></head><body style="margin:0">${reportBody(report)}</body></html>`;
