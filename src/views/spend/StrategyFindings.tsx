import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import { useMemo } from 'react';
import { counted, money, percent } from '../../core/metrics/format.ts';
import { daysBetween, type Window } from '../../core/metrics/days.ts';
import type { PlacedRow } from '../../core/placements/findings.ts';
import { strategyName } from '../../core/placements/names.ts';
import {
  compareStrategies,
  fewestCampaigns,
  servedBetter,
  strategyCampaigns,
  type StrategyPair,
} from '../../core/placements/strategies.ts';
import { at } from '../../ui/address.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Figure } from '../../ui/parts/Figure.tsx';
import { sizes } from '../../ui/theme.ts';

interface StrategyFindingsProps {
  rows: readonly PlacedRow[];
  /** Campaigns whose strategies a sheet changes already. */
  onSheet: readonly string[];
  window: Window;
}

/** Strategies against each other among campaigns that aim alike, and campaigns that another would surely serve better. */
export function StrategyFindings({ rows, onSheet, window }: StrategyFindingsProps) {
  const { putLines } = useAct();
  const campaigns = useMemo(() => strategyCampaigns(rows), [rows]);
  const pairs = useMemo(() => compareStrategies(campaigns), [campaigns]);
  const found = useMemo(
    () => servedBetter(campaigns, pairs, daysBetween(window.from, window.to) + 1),
    [campaigns, pairs, window],
  );
  const fresh = campaigns.filter(({ isNew }) => isNew).length;
  const waiting = new Set(onSheet);
  const set = ({ strategy, against }: StrategyPair, count: number) =>
    void putLines(
      '/api/spend/placements/strategies',
      { ...window, strategy, against },
      `${counted(count, 'campaign')} set to ${strategyName(strategy)}`,
    );
  return (
    <Box
      component="section"
      aria-label="Strategies against each other"
      sx={{ px: 2.25, pb: 1.5, fontSize: sizes.table, lineHeight: 1.6, display: 'grid', gap: 0.75 }}
    >
      {pairs.length === 0
        ? 'No two strategies have enough orders in campaigns that aim alike: nothing is compared.'
        : pairs.map((pair) => (
            <div key={`${pair.strategy} ${pair.against}`} data-pair={`${pair.strategy} ${pair.against}`}>
              <Figure name="strategy_ratio" label="Strategies against each other">
                Of a unit spent <b>{strategyName(pair.strategy)}</b> sells {pair.ratio.toFixed(2)} × what{' '}
                {strategyName(pair.against)} does
              </Figure>{' '}
              ({pair.low.toFixed(2)} to {pair.high.toFixed(2)}), among {pair.campaigns} and {pair.others}{' '}
              campaigns that aim alike, each against its product: better with {percent(pair.chance)}
              {Math.min(pair.campaigns, pair.others) < fewestCampaigns
                ? '; too few campaigns to propose anything by'
                : ''}
              .
            </div>
          ))}
      {fresh > 0 && (
        <div data-testid="strategies-new">
          {counted(fresh, 'campaign')} whose strategy was changed since these days began{' '}
          {fresh === 1
            ? 'counts from the day after, and is left as it is'
            : 'count from the day after, and are left as they are'}
          .
        </div>
      )}
      {found.map(({ pair, campaigns: better, sales }) => (
        <Box
          key={pair.against}
          data-better={pair.against}
          sx={{ borderLeft: 3, borderColor: 'primary.main', pl: 1.5 }}
        >
          {counted(better.length, 'campaign')} under {strategyName(pair.against)} would be served better by{' '}
          {strategyName(pair.strategy)}, as far as campaigns like them tell. Once they switch too, about two
          thirds of what sets them apart stay: {pair.switched.ratio.toFixed(2)} × (
          {pair.switched.low.toFixed(2)} to {pair.switched.high.toFixed(2)}), about <b>{money(sales)}</b> of
          sales a week more for the same money.{' '}
          {better.slice(0, 6).map(({ campaignId, name }, index) => (
            <span key={campaignId}>
              {index > 0 && ', '}
              <Link href={at(`/spend?part=where&campaign=${campaignId}`)}>{name}</Link>
            </span>
          ))}
          {better.length > 6 && ` and ${better.length - 6} more`}{' '}
          {better.every(({ campaignId }) => waiting.has(campaignId)) ? (
            <b>They are on the sheet.</b>
          ) : (
            <Button size="small" variant="outlined" onClick={() => set(pair, better.length)}>
              Set {counted(better.length, 'campaign')} to {strategyName(pair.strategy)}
            </Button>
          )}
        </Box>
      ))}
    </Box>
  );
}
