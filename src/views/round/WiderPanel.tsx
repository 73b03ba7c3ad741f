import { sizes } from '../../ui/theme.ts';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import type { Collateral } from '../../answers/terms.ts';
import type { Window } from '../../core/metrics/days.ts';
import { counted, money, percent } from '../../core/metrics/format.ts';
import { acos } from '../../core/metrics/figures.ts';
import { at } from '../../ui/address.ts';
import { ask } from '../../ui/api.ts';
import { CollateralParts, orders } from '../../ui/parts/CollateralParts.tsx';
import { isHeldWhole } from '../../core/round/queue.ts';
import { trialOfKey } from '../../core/trials/queue.ts';
import { TrialResult } from '../trials/TrialResult.tsx';
import { useTrials } from '../trials/useTrials.ts';
import { placementName } from '../../core/placements/names.ts';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { KeyHints } from '../../ui/shell/Keys.tsx';
import type { Row } from './types.ts';

interface WiderPanelProps {
  row: Row;
  window: Window;
}

/** Why words, a conflict, placements or a campaign are among the findings. */
export function WiderPanel({ row, window }: WiderPanelProps) {
  return (
    <Panel label="Why">
      <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
        {row.queue === 'words' ? `“${row.subject}”` : row.subject}
      </Typography>
      {row.queue === 'words' ? (
        <Words row={row} window={window} />
      ) : row.queue === 'placements' ? (
        <Placements row={row} />
      ) : row.queue === 'budgets' ? (
        <Budget row={row} />
      ) : row.queue === 'hours' ? (
        <Hours row={row} />
      ) : row.queue === 'trials' ? (
        <Trial row={row} />
      ) : (
        <Repair row={row} />
      )}
      {row.queue !== 'trials' && (
        <Part title="Worth a week" explains="worth">
          {row.worth > 0 ? money(row.worth) : 'Nothing that is known.'}
        </Part>
      )}
      <KeyHints
        keys={[isHeldWhole(row) ? ['b', 'beyond its guard'] : ['a', 'accept'], ['s', 'skip'], ['l', 'later']]}
      />
    </Panel>
  );
}

function Words({ row, window }: WiderPanelProps) {
  const body = { from: window.from, to: window.to, sku: row.sku, words: row.subject };
  const collateral = useQuery({
    queryKey: ['collateral', body],
    queryFn: () => ask<Collateral>('/api/terms/collateral', body),
    staleTime: 60_000,
  });
  const sums = row.sums!;
  return (
    <>
      <Sentence>
        Stop paying for it. {counted(row.terms ?? 0, 'term')} of {row.sku ?? 'no product'} hold these words:{' '}
        {counted(sums.clicks, 'click')}, {orders(sums.orders)}, {money(sums.spend)} spent
        {sums.sales > 0 && `, an ACOS of ${percent(acos(sums))}`} in the window. Together they are surely far
        over your {percent(row.targetAcos)}.
      </Sentence>
      {collateral.isError && <Typography color="error">{collateral.error.message}</Typography>}
      {collateral.isPending && <Typography color="text.secondary">Looking what it would block.</Typography>}
      {collateral.data && <CollateralParts data={collateral.data} />}
      <Part title="Look closer">
        <Link
          href={at(
            `/lanes?view=words&q=${encodeURIComponent(row.subject)}&sku=${encodeURIComponent(row.sku ?? '')}`,
          )}
        >
          All words of the product
        </Link>
      </Part>
    </>
  );
}

const Sentence = ({ children }: { children: ReactNode }) => (
  <Typography data-testid="why-sentence" sx={{ mt: 1, fontSize: sizes.sentence, lineHeight: 1.45 }}>
    {children}
  </Typography>
);

function Placements({ row }: { row: Row }) {
  if (row.proposal.kind !== 'placements') return null;
  const { sentence, modifiers, bids, lines, held } = row.proposal;
  return (
    <>
      <Sentence>{sentence}</Sentence>
      <Part title="Together">
        {bids};{' '}
        {modifiers
          .map(({ placement, from, to }) => `${placementName(placement)} ${from} → ${to} %`)
          .join(', ')}
        : {counted(lines, 'line')}.
        {held.includes('largest step') && ' More is wanted: 100 points are the largest step.'}
        {held.includes('cooldown') &&
          ' Held by cooldown: its modifiers were changed in the last days, and what that does comes first.'}
      </Part>
      <Part title="Look closer">
        <Link href={at(`/spend?part=where&campaign=${row.campaignId}`)}>
          Its placements, and how it comes about
        </Link>
      </Part>
    </>
  );
}

function Budget({ row }: { row: Row }) {
  if (row.proposal.kind !== 'budget') return null;
  const { sentence, short, lines, held } = row.proposal;
  return (
    <>
      <Sentence>{sentence}</Sentence>
      <Part title="Proposed">
        {short}: {counted(lines, 'line')}.
        {held.includes('largest step') && ' More is wanted: twice is the largest step.'}
        {held.includes('cooldown') &&
          ' Held by cooldown: its budget was changed in the last days, and what that does comes first.'}
      </Part>
      <Part title="Look closer">
        <Link href={at(`/spend?campaign=${row.campaignId}`)}>Its hours, and how it comes about</Link>
      </Part>
    </>
  );
}

function Hours({ row }: { row: Row }) {
  if (row.proposal.kind !== 'hours') return null;
  const { sentence, short, lines, held } = row.proposal;
  return (
    <>
      <Sentence>{sentence}</Sentence>
      <Part title="Proposed">
        {short}: {counted(lines, 'line')}.
        {held.includes('largest step') && ' More is wanted: 50 points are the largest step.'}
        {held.includes('cooldown') &&
          ' Held by cooldown: its schedule was changed in the last four weeks, and the same weekdays are compared first.'}
      </Part>
      <Part title="Look closer">
        <Link href={at(`/spend?part=when&campaign=${row.campaignId}`)}>
          Its hours, and how it comes about
        </Link>
      </Part>
    </>
  );
}

function Trial({ row }: { row: Row }) {
  const { data } = useTrials();
  const trial = data?.trials.find(({ trialId }) => trialId === trialOfKey(row.key));
  if (!trial) return null;
  return (
    <>
      <Part title={trial.state === 'over' ? 'Its time is over' : 'It does harm before its time'}>
        <TrialResult trial={trial} />
      </Part>
      <Part title="Look closer">
        <Link href={at('/ledger?sheet=trials')}>All trials</Link>
      </Part>
    </>
  );
}

function Repair({ row }: { row: Row }) {
  if (row.proposal.kind !== 'repair') return null;
  const { sentence, repair, lines, loses } = row.proposal;
  return (
    <>
      <Sentence>{sentence}</Sentence>
      <Part title="Repair">
        {repair === null
          ? 'There is none that lines on a sheet could make.'
          : `${repair}: ${counted(lines, 'line')}.`}
      </Part>
      {loses !== undefined && <Part title="What is lost">{loses}</Part>}
      <Part title="Look closer">
        {row.queue === 'conflicts' ? (
          <Link href={at(`/lanes?view=coverage&term=${encodeURIComponent(row.subject)}`)}>
            Everything that bids on it or blocks it
          </Link>
        ) : (
          <Link href={at(`/explore?level=targets&where=${encodeURIComponent(inCampaign(row.subject))}`)}>
            All targets of the campaign
          </Link>
        )}
      </Part>
    </>
  );
}

const inCampaign = (name: string): string =>
  JSON.stringify({ all: [{ column: 'campaign', is: 'equals', value: name }] });
