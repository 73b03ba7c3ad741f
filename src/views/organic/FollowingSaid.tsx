import type { ReactNode } from 'react';
import { count } from '../../core/metrics/format.ts';
import type { Following } from '../../core/organic/follow.ts';
import { lagText } from './lanes.ts';

const r = (value: number): string => value.toFixed(2).replace('-', '−');

export const pictureSaid = ({ lags, peak }: Following, name: string): string =>
  lags.length === 0
    ? `${name}: too few days`
    : peak
      ? `${name}: ${r(peak.r)} with ${lagText(peak.lag)}, ${r(peak.low)} to ${r(peak.high)}`
      : `${name}: no lag stands out of chance`;

interface FollowingSaidProps {
  following: Following;
  name: string;
  first: string;
  second: string;
}

/** What the picture says, with its interval; a claim only where one lag stands out of chance. */
export const FollowingSaid = ({
  following: { lags, peak },
  name,
  first,
  second,
}: FollowingSaidProps): ReactNode => (
  <span data-testid={name}>
    {lags.length === 0 ? (
      'too few days are told to say anything.'
    ) : peak === null ? (
      `nothing stands out of chance: no lag of ${lags.length} leaves 0 with its interval.`
    ) : (
      <>
        {second} moved {peak.r > 0 ? 'with' : 'against'} {first},{' '}
        {peak.lag === 0 ? 'on the same day' : peak.lag > 0 ? lagText(peak.lag) : `but ${lagText(peak.lag)}`}:{' '}
        <b>{r(peak.r)}</b> ({r(peak.low)} to {r(peak.high)}, {count(peak.pairs)} pairs of days).
      </>
    )}
  </span>
);
