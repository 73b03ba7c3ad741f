import { sizes } from '../../ui/theme.ts';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import type { RowAnswer } from '../../answers/explore.ts';
import { acosInterval, chanceOfNoOrder } from '../../core/evidence/verdict.ts';
import type { Window } from '../../core/metrics/days.ts';
import { total } from '../../core/metrics/figures.ts';
import { count, money, percent, significant } from '../../core/metrics/format.ts';
import { get } from '../../ui/api.ts';
import { AcosCurve } from '../../ui/charts/AcosCurve.tsx';
import { SeasonChart } from '../../ui/charts/SeasonChart.tsx';
import { Panel, Part, WindowsTable } from '../../ui/parts/Panel.tsx';
import { useSeason } from '../../ui/shell/data.ts';
import { TermHints } from '../../ui/parts/TermHints.tsx';

const clicks = (n: number): string => `${count(n)} click${n === 1 ? '' : 's'}`;

/** What the season says of a row against its goal, with its numbers. */
function sentenceOf(row: RowAnswer): string {
  const seen = total(row.season);
  const orders =
    seen.orders === 0 ? 'no order' : `${count(seen.orders)} order${seen.orders === 1 ? '' : 's'}`;
  const start = `${clicks(seen.clicks)} this season, ${orders}, ${money(seen.spend)} spent.`;
  if (seen.orders === 0 && seen.clicks > 0) {
    const sold = 1 - chanceOfNoOrder(row.prior.mu, seen.clicks);
    return `${start} An average row here would have sold with ${sold > 0.99 ? 'over 99 %' : percent(sold)}.`;
  }
  const interval = acosInterval(row);
  if (!interval || row.over === null) return `${start} It had no click in the window.`;
  const under = row.over < 0.5;
  const chance = Math.max(row.over, 1 - row.over);
  return (
    `${start} Its ACOS lies likely between ${percent(interval.low)} and ${percent(interval.high)}, ` +
    `${chance > 0.99 ? 'over 99 %' : percent(chance)} likely ${under ? 'under' : 'over'} your ${percent(row.targetAcos)}.`
  );
}

interface RowPanelProps {
  level: 'targets' | 'terms';
  rowKey: string | null;
  window: Window;
}

/** What is known of the row in focus: sentence, curve, season, windows, relations. */
export function RowPanel({ level, rowKey, window }: RowPanelProps) {
  const season = useSeason();
  const answer = useQuery({
    queryKey: ['explore row', level, rowKey, window.from, window.to],
    queryFn: () =>
      get<RowAnswer>(`/api/explore/row?level=${level}&key=${rowKey!}&from=${window.from}&to=${window.to}`),
    enabled: rowKey !== null,
    staleTime: 60_000,
  });
  const row = answer.data;
  return (
    <Panel label="Why">
      {rowKey === null && (
        <Typography color="text.secondary">Choose a row to see what is known of it.</Typography>
      )}
      {answer.isError && <Typography color="error">{answer.error.message}</Typography>}
      {rowKey !== null && answer.isPending && <Typography color="text.secondary">Looking it up.</Typography>}
      {row && (
        <>
          <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
            {row.name}
          </Typography>
          <Typography variant="caption" color="text.secondary">
            {row.place}
            {level === 'terms' && `, caught by ${row.matchType ?? ''} ${row.target}`}
          </Typography>
          <Typography data-testid="why-sentence" sx={{ mt: 1, fontSize: sizes.sentence, lineHeight: 1.45 }}>
            {sentenceOf(row)}
          </Typography>
          {row.cpc !== null && row.value > 0 && (
            <Part title="Likely ACOS" explains="likely">
              <AcosCurve gamma={row.gamma} value={row.value} cpc={row.cpc} target={row.targetAcos} />
            </Part>
          )}
          <Part title="How it comes about">
            <div>
              {significant(row.gamma.shape / row.gamma.rate)} orders a click × {money(row.value)} an order;
              its siblings have {significant(row.prior.mu)}, weighing {count(row.prior.strength)} clicks.
              {level === 'terms' && ' Judged with all that its ad group caught of it, by whichever target.'}
            </div>
          </Part>
          {season.data?.account.today && (
            <Part title="Its season" explains="season">
              <SeasonChart
                days={row.season}
                bids={row.bids}
                sent={season.data.sent.map(({ day }) => day)}
                today={season.data.account.today}
                settledTo={season.data.settledTo}
              />
            </Part>
          )}
          <Part title="Windows" explains="windows">
            <WindowsTable windows={row.windows} />
          </Part>
          {level === 'terms' && <TermHints term={row.name} sku={row.sku} window={window} />}
          {(row.served !== null || row.blocked !== null || row.elsewhere.length > 0) && (
            <Part title="Relations">
              {row.blocked !== null && <div>Blocked by {row.blocked}</div>}
              {row.served !== null && <div>Served by {row.served}</div>}
              {row.elsewhere.map((one, i) => (
                <div key={i}>
                  Bid on as {one.matchType ?? one.kind} in {one.adGroup}
                  {one.bid !== null && ` at ${money(one.bid)}`}
                  {one.status !== 'enabled' && `, ${one.status}`}
                </div>
              ))}
            </Part>
          )}
        </>
      )}
    </Panel>
  );
}
