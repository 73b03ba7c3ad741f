import { BidChanges } from './BidChanges.tsx';
import type { WhyAnswer } from '../../answers/round.ts';
import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import type { Window } from '../../core/metrics/days.ts';
import { signedDecimal, money, percent, signedMoney, significant } from '../../core/metrics/format.ts';
import { get } from '../../ui/api.ts';
import { AcosCurve } from '../../ui/charts/AcosCurve.tsx';
import { SeasonChart } from '../../ui/charts/SeasonChart.tsx';
import { Working } from '../../ui/parts/Working.tsx';
import { Panel, Part, WindowsTable } from '../../ui/parts/Panel.tsx';
import { Key, KeyHints } from '../../ui/shell/Keys.tsx';
import { useSeason } from '../../ui/shell/data.ts';
import { TermHints } from '../../ui/parts/TermHints.tsx';
import { eighty } from '../../core/effect/forecast.ts';
import type { Effect } from '../../core/effect/types.ts';
import { heldBy } from './filter.ts';
import type { Row, RoundAnswer } from './types.ts';
import { matchName, placeOf } from './words.ts';

/** Why the finding in focus is proposed: sentence, working, curve, history, windows, relations, effect. */
export function WhyPanel({
  row,
  window,
  names,
}: {
  row: Row | null;
  window: Window;
  names: RoundAnswer['adGroups'];
}) {
  const season = useSeason();
  const why = useQuery({
    queryKey: ['why', row?.key, window.from, window.to],
    queryFn: () =>
      get<WhyAnswer>(
        `/api/round/why?key=${encodeURIComponent(row!.key)}&from=${window.from}&to=${window.to}`,
      ),
    enabled: row !== null,
    staleTime: 60_000,
    placeholderData: (previous) => (previous?.finding.key === row?.key ? previous : undefined),
  });
  const data = why.data;
  const working = data?.finding.working;
  return (
    <Panel label="Why">
      {!row && <Typography color="text.secondary">Choose a finding to see why it is proposed.</Typography>}
      {row && (
        <>
          <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
            {row.subject}
          </Typography>
          <Typography variant="caption" color="text.secondary">
            {placeOf(row, names)}
          </Typography>
        </>
      )}
      {why.isError && <Typography color="error">{why.error.message}</Typography>}
      {row && why.isPending && <Typography color="text.secondary">Working it out.</Typography>}
      {row && data && working && (
        <>
          <Typography data-testid="why-sentence" sx={{ mt: 1, fontSize: sizes.sentence, lineHeight: 1.45 }}>
            {data.sentence}
          </Typography>
          {data.finding.proposal.kind === 'harvest' &&
            data.finding.proposal.warnings.map((warning) => (
              <Typography key={warning} variant="body2" sx={{ mt: 0.5, color: 'error.main' }}>
                {warning}
              </Typography>
            ))}
          {working.cpc !== null && (
            <Part title="Likely ACOS" explains="likely">
              <AcosCurve
                gamma={working.gamma}
                value={working.value}
                cpc={working.cpc}
                target={working.targetAcos}
              />
            </Part>
          )}
          <Part title="How it comes about">
            <Working steps={data.working} />
            <Typography variant="caption" color="text.secondary" component="p" sx={{ m: 0, mt: 0.5 }}>
              Orders and clicks fade by half in 45 days. Goal of the {working.goalScope}
              {working.goalKey && working.goalScope === 'product' ? ` ${working.goalKey}` : ''}.
            </Typography>
          </Part>
          {row.queue === 'targets' && (
            <Part title={`θ ${significant(working.theta)}`} explains="theta">
              <div data-testid="why-theta">
                {data.theta?.reason ?? 'The start: no round of steering has been yet.'}
                {data.theta?.in_force != null &&
                  ` In force: ${significant(data.theta.in_force)} of expected revenue per click.`}
              </div>
            </Part>
          )}
          <Part title="Its season" explains="season">
            {season.data?.account.today && (
              <SeasonChart
                days={data.season}
                bids={row.queue === 'targets' ? data.bids : []}
                sent={season.data.sent.map(({ day }) => day)}
                today={season.data.account.today}
                settledTo={season.data.settledTo}
              />
            )}
          </Part>
          {data.changes.length > 0 && <BidChanges changes={data.changes} />}
          <Part title="Windows" explains="windows">
            <WindowsTable windows={data.windows} />
          </Part>
          {data.relations.length > 0 && (
            <Part title="Also bid on">
              {data.relations.map((relation, i) => (
                <div key={i}>
                  {relation.matchType ? matchName(relation.matchType) : relation.kind} in {relation.adGroup}
                  {relation.bid !== null && ` at ${money(relation.bid)}`}
                  {relation.status !== 'enabled' && `, ${relation.status}`}
                </div>
              ))}
            </Part>
          )}
          {row.queue === 'terms' && <TermHints term={row.subject} sku={row.sku} window={window} />}
          {data.finding.proposal.kind === 'negative' && data.finding.proposal.milder && (
            <Part title="If the term belongs to the product">
              <div>
                Milder: lower the bid of {data.finding.target} from {money(data.finding.proposal.milder.from)}{' '}
                to {money(data.finding.proposal.milder.to)}. <Key>e</Key> offers it.
              </div>
            </Part>
          )}
          {(data.finding.proposal.kind !== 'wait' || data.finding.proposal.held) && (
            <Part
              title={
                data.finding.proposal.kind === 'wait'
                  ? 'Expected per week, beyond its guard'
                  : 'Expected per week'
              }
            >
              <Expected effect={data.finding.effect} />
            </Part>
          )}
          <KeyHints
            keys={[
              ['a', 'accept'],
              ['e', 'adjust'],
              ...(heldBy(row) !== null && row.queue === 'targets'
                ? [['b', 'beyond its guard'] as const]
                : []),
              ['s', 'skip'],
              ['l', 'later'],
              ['t', 'tolerate'],
            ]}
          />
        </>
      )}
    </Panel>
  );
}

/** What a finding should change in a week, each figure with the interval in which 80 % of such forecasts should lie. */
function Expected({ effect }: { effect: Effect }) {
  const { spreads, before } = effect;
  const between = (value: number, spread: number | null | undefined, text: (value: number) => string) =>
    spread == null ? '' : `${text(value - eighty * spread)} to ${text(value + eighty * spread)}`;
  const rows: [string, string, string][] = [
    ['clicks', signedDecimal(effect.clicks), between(effect.clicks, spreads?.clicks, signedDecimal)],
    ['spend', signedMoney(effect.spend), between(effect.spend, spreads?.spend, signedMoney)],
    ['orders', signedDecimal(effect.orders), between(effect.orders, spreads?.orders, signedDecimal)],
    ['sales', signedMoney(effect.sales), between(effect.sales, spreads?.sales, signedMoney)],
  ];
  if (effect.profit !== null)
    rows.push([
      'ad profit',
      signedMoney(effect.profit),
      between(effect.profit, spreads?.profit, signedMoney),
    ]);
  const acos = (spend: number, sales: number) =>
    sales > 0 ? percent(spend / sales) : percent(spend > 0 ? Infinity : null);
  return (
    <Box
      component="dl"
      data-testid="why-expected"
      sx={{
        m: 0,
        display: 'grid',
        gridTemplateColumns: '70px auto 1fr',
        columnGap: 1.5,
        rowGap: 0.2,
        '& dd': { m: 0, textAlign: 'right' },
      }}
    >
      {rows.map(([name, value, range]) => (
        <Box key={name} sx={{ display: 'contents' }}>
          <dt>{name}</dt>
          <Box component="dd" sx={{ fontWeight: 700 }}>
            {value}
          </Box>
          <Box component="dd" sx={{ color: 'text.secondary' }}>
            {range}
          </Box>
        </Box>
      ))}
      {before && (
        <Box sx={{ display: 'contents' }}>
          <dt>ACOS</dt>
          <Box component="dd" sx={{ fontWeight: 700, whiteSpace: 'nowrap', gridColumn: 'span 2' }}>
            {acos(before.spend, before.sales)} →{' '}
            {acos(before.spend + effect.spend, before.sales + effect.sales)}
          </Box>
        </Box>
      )}
    </Box>
  );
}
