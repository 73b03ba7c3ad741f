import { sizes } from '../../ui/theme.ts';
import { CollateralParts, orders } from '../../ui/parts/CollateralParts.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import type { Window } from '../../core/metrics/days.ts';
import { chanceOfNoOrder } from '../../core/evidence/verdict.ts';
import { count, counted, money, percent, significant } from '../../core/metrics/format.ts';
import type { Collateral } from '../../answers/terms.ts';
import type { WordRow } from '../../core/terms/word-verdicts.ts';
import { ask } from '../../ui/api.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { KeyHints } from '../../ui/shell/Keys.tsx';
import { termsWith } from './links.ts';

export type WordScope = 'ad_group' | 'campaign' | 'product';

interface WordPanelProps {
  row: WordRow | null;
  window: Window;
  sku: string | null;
  scope: WordScope;
  onScope: (scope: string) => void;
  onNegate: (words: string[]) => void;
  onRelevant: (row: WordRow) => void;
}

/** What the season says of a sequence against what its terms would have sold on average. */
function sentenceOf(row: WordRow): string {
  const seen = `${counted(row.seenClicks, 'click')} this season, ${orders(row.seenOrders)}, ${money(row.seenSpend)} spent in ${counted(row.terms, 'term')}.`;
  if (row.over === null) return `${seen} It cost nothing in this window.`;
  if (row.seenOrders === 0) {
    const sold = 1 - chanceOfNoOrder(row.prior.mu, row.seenClicks);
    return `${seen} Average terms would have sold with ${sold > 0.99 ? 'over 99 %' : percent(sold)}.`;
  }
  const side = row.over >= 0.5 ? 'over' : 'under';
  const chance = Math.max(row.over, 1 - row.over);
  return `${seen} ${chance > 0.99 ? 'Over 99 %' : percent(chance)} likely ${side} your ${percent(row.targetAcos)}.`;
}

/** What is known of the words in focus, and what a negative phrase of them would take along. */
export function WordPanel({ row, window, sku, scope, onScope, onNegate, onRelevant }: WordPanelProps) {
  const body = { from: window.from, to: window.to, sku, words: row?.words };
  const collateral = useQuery({
    queryKey: ['collateral', body],
    queryFn: () => ask<Collateral>('/api/terms/collateral', body),
    enabled: row !== null,
    staleTime: 60_000,
  });
  const data = collateral.data;
  if (!row) {
    return (
      <Panel label="Words in focus">
        <Typography color="text.secondary">Choose words to see which terms have them.</Typography>
      </Panel>
    );
  }
  const ends = data
    ? scope === 'ad_group'
      ? data.places.length
      : new Set(data.places.map((one) => one.campaignId)).size
    : 0;
  return (
    <Panel label="Words in focus">
      <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
        “{row.words}”
      </Typography>
      <Typography data-testid="words-why" sx={{ mt: 0.75, fontSize: sizes.sentence, lineHeight: 1.45 }}>
        {sentenceOf(row)}
      </Typography>
      <Part title="How it comes about">
        Its terms’ siblings sell {significant(row.prior.mu)} orders a click; words scatter around theirs with
        a weight of {count(row.prior.strength)} clicks.
      </Part>
      {collateral.isError && <Typography color="error">{collateral.error.message}</Typography>}
      {data && <CollateralParts data={data} onTwin={(twin) => onNegate([row.words, twin])} />}
      <Part title="Where it would stand">
        <Choice
          aria-label="Scope"
          value={scope}
          onChange={(event) => onScope(event.target.value)}
          sx={{ width: 240 }}
        >
          <option value="ad_group">ad groups that caught it</option>
          <option value="campaign">campaigns that caught it</option>
          <option value="product">every campaign of the product</option>
        </Choice>
        {scope !== 'product' && <Box sx={{ mt: 0.5, color: 'text.secondary' }}>{counted(ends, 'place')}</Box>}
      </Part>
      <Box sx={{ mt: 1.5, display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
        <Button variant="contained" size="small" disabled={!data} onClick={() => onNegate([row.words])}>
          Add negative phrase
        </Button>
        <Button size="small" onClick={() => onRelevant(row)}>
          {row.relevant ? 'Not relevant after all' : 'Mark relevant'}
        </Button>
        <Link href={termsWith(row.words, sku)}>Its terms</Link>
      </Box>
      <KeyHints
        keys={[
          ['a', 'add negative'],
          ['r', 'relevant'],
          ['Enter', 'terms'],
        ]}
      />
    </Panel>
  );
}
