import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import type { RefObject } from 'react';
import { setUrl } from '../../ui/hooks/useUrlState.ts';
import { guardWords, proposalKinds, type Filter, type Shown } from './filter.ts';
import type { RoundAnswer } from './types.ts';

interface FiltersProps {
  shown: Shown;
  filter: Filter;
  answer: RoundAnswer;
  input: RefObject<HTMLInputElement | null>;
}

/** Filters of the queue: text, product, campaign, verdict, kind of proposal. */
export function Filters({ shown, filter, answer, input }: FiltersProps) {
  const campaigns = new Map(
    Object.values(answer.adGroups).map(({ campaignId, campaign }) => [campaignId, campaign]),
  );
  const choice = (name: string, label: string, value: string, options: [string, string][]) => (
    <Select
      key={name}
      variant="standard"
      disableUnderline
      displayEmpty
      value={options.some(([option]) => option === value) ? value : ''}
      onChange={(event) => setUrl({ [name]: event.target.value })}
      inputProps={{ 'aria-label': label }}
      renderValue={(chosen) => (
        <span>
          {label}{' '}
          <b>{options.find(([option]) => option === chosen)?.[1] ?? (name === 'held' ? 'no' : 'any')}</b>
        </span>
      )}
      sx={{
        typography: 'body2',
        border: 1,
        borderColor: 'divider',
        borderRadius: 1,
        pl: 1,
        maxWidth: 190,
        bgcolor: 'background.paper',
        height: 28,
      }}
    >
      <MenuItem value="" dense>
        {name === 'held' ? 'no' : 'any'}
      </MenuItem>
      {options.map(([option, text]) => (
        <MenuItem key={option} value={option} dense>
          {text}
        </MenuItem>
      ))}
    </Select>
  );
  const any =
    filter.text || filter.sku || filter.campaignId || filter.verdict || filter.proposal || filter.held;
  return (
    <Box role="search" sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
      <input
        ref={input}
        type="search"
        aria-label="Filter by text"
        placeholder={shown === 'all' ? 'Filter findings  /' : `Filter ${shown}  /`}
        value={filter.text}
        onChange={(event) => setUrl({ q: event.target.value })}
        onKeyDown={(event) => {
          if (event.key === 'Escape' || event.key === 'Enter') event.currentTarget.blur();
        }}
        style={{
          font: 'inherit',
          fontSize: 13,
          width: 150,
          height: 27,
          border: 0,
          borderBottom: '1px solid currentColor',
          background: 'transparent',
          color: 'inherit',
        }}
      />
      {choice(
        'sku',
        'product',
        filter.sku,
        Object.entries(answer.products).map(([sku]) => [sku, sku]),
      )}
      {choice(
        'campaign',
        'campaign',
        filter.campaignId,
        [...campaigns].sort((a, b) => (a[1] < b[1] ? -1 : 1)),
      )}
      {choice('verdict', 'verdict', filter.verdict, [
        ['under', 'under goal'],
        ['over', 'over goal'],
        ['undecided', 'undecided'],
      ])}
      {choice('proposal', 'proposal', filter.proposal, Object.entries(proposalKinds(shown)))}
      {choice('held', 'held', filter.held, [
        ['any', 'by any guard'],
        ...[...new Set(Object.values(guardWords))].map((by): [string, string] => [by, `by ${by}`]),
      ])}
      {any && (
        <Button
          size="small"
          onClick={() =>
            setUrl({ q: null, sku: null, campaign: null, verdict: null, proposal: null, held: null })
          }
        >
          Clear
        </Button>
      )}
    </Box>
  );
}
