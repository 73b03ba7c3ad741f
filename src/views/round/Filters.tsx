import Box from '@mui/material/Box';
import { ClearFilters, Filter, SearchField } from '../../ui/list/filters.tsx';
import { guardWords, proposalKinds, type Filter as Asked, type Shown } from './filter.ts';
import type { RoundAnswer } from './types.ts';

interface FiltersProps {
  shown: Shown;
  filter: Asked;
  answer: RoundAnswer;
}

const verdicts = [
  ['under', 'under goal'],
  ['over', 'over goal'],
  ['undecided', 'undecided'],
] as const;

/** What each filter may be asked for: `[value, words]`. */
export function filterOptions(shown: Shown, { adGroups, products }: RoundAnswer) {
  const campaigns = new Map(
    Object.values(adGroups).map(({ campaignId, campaign }) => [campaignId, campaign]),
  );
  return {
    sku: Object.keys(products).map((sku) => [sku, sku] as const),
    campaign: [...campaigns].sort((a, b) => (a[1] < b[1] ? -1 : 1)),
    verdict: verdicts,
    proposal: Object.entries(proposalKinds(shown)),
    held: [
      ['any', 'held by any guard'] as const,
      ...[...new Set(Object.values(guardWords))].map((by) => [by, `held by ${by}`] as const),
    ],
  };
}

const params = ['q', 'sku', 'campaign', 'verdict', 'proposal', 'held'];

/** Filters of the findings: text, product, campaign, verdict, kind of proposal, guard. */
export function Filters({ shown, filter, answer }: FiltersProps) {
  const options = filterOptions(shown, answer);
  return (
    <Box role="search" sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
      <SearchField label="Filter by text" placeholder={`Filter ${shown === 'all' ? 'findings' : shown}`} />
      <Filter param="sku" label="product" none="any product" options={options.sku} />
      <Filter param="campaign" label="campaign" none="any campaign" options={options.campaign} />
      <Filter param="verdict" label="verdict" none="any verdict" options={options.verdict} />
      <Filter param="proposal" label="proposal" none="any proposal" options={options.proposal} />
      <Filter param="held" label="held" none="not held" options={options.held} />
      {Object.values(filter).some((value) => value !== '') && <ClearFilters params={params} />}
    </Box>
  );
}
