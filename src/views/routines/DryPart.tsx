import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { DryAnswer } from '../../answers/routines.ts';
import { count, counted, signedMoney } from '../../core/metrics/format.ts';
import { addDays, type Day } from '../../core/metrics/days.ts';
import type { Routine } from '../../core/routines/routine.ts';
import { send } from '../../ui/api.ts';
import { shortDay } from '../../ui/days.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useJob } from '../../ui/hooks/useJob.ts';
import { Field } from '../../ui/parts/fields.tsx';
import { JobProgress } from '../../ui/parts/JobProgress.tsx';
import { Part } from '../../ui/parts/Panel.tsx';
import { NightsPicture } from './NightsPicture.tsx';

interface DryPartProps {
  today: Day | null;
  draft: Routine;
  /** The routine that it is a change of: both are played, and the difference is told. */
  saved: number | null;
  isPlayable: boolean;
}

interface Played {
  played: DryAnswer;
  saved: DryAnswer | null;
}

/** Nights that are played unless others are asked for. */
const usualNights = 28;

/** A routine played over nights of the past, with what was known on each; nothing is changed by it. */
export function DryPart({ today, draft, saved, isPlayable }: DryPartProps) {
  const { failed } = useAct();
  const last = today ?? '2000-01-01';
  const [from, setFrom] = useState(addDays(last, 1 - usualNights));
  const [to, setTo] = useState(last);
  const [jobId, setJobId] = useState<string | null>(null);
  /** What was played last, and of which settings that tells. */
  const [of, setOf] = useState('');
  const job = useJob(jobId);
  const key = JSON.stringify([draft, from, to, saved]);
  const play = () => {
    send<{ jobId: string }>('POST', '/api/routines/dry', { settings: draft, from, to, besides: saved })
      .then((answer) => {
        setJobId(answer.jobId);
        setOf(key);
      })
      .catch(failed);
  };
  const isUnderWay = job !== null && (job.state === 'waiting' || job.state === 'running');
  const result = job?.state === 'done' && of === key ? (job.result as Played) : null;
  return (
    <Part title="Dry run: what it would have done">
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, flexWrap: 'wrap', mt: 0.5 }}>
        From
        <Field
          type="date"
          aria-label="First night"
          value={from}
          max={last}
          onChange={({ target }) => setFrom(target.value)}
        />
        to
        <Field
          type="date"
          aria-label="Last night"
          value={to}
          max={last}
          onChange={({ target }) => setTo(target.value)}
        />
        <Button
          size="small"
          variant="outlined"
          disabled={!isPlayable || isUnderWay || today === null || from === '' || to === ''}
          onClick={play}
        >
          Play it
        </Button>
      </Box>
      {isUnderWay && <JobProgress job={job} title="Dry run" cancellable />}
      {job?.state === 'failed' && of === key && (
        <Typography color="error" variant="body2" role="alert">
          {job.message}
        </Typography>
      )}
      {job?.state === 'cancelled' && of === key && (
        <Typography variant="body2">Cancelled; nothing was changed by it.</Typography>
      )}
      {job?.state === 'done' && of !== key && (
        <Typography variant="body2" color="text.secondary">
          It was changed since it was played: play it again.
        </Typography>
      )}
      {result && <Result {...result} />}
    </Part>
  );
}

function Result({ played, saved }: Played) {
  const [chosen, setChosen] = useState<Day | null>(null);
  const { summary, nights } = played;
  const night = nights.find(({ day }) => day === chosen) ?? nights.find(({ taken }) => taken > 0) ?? null;
  return (
    <Box data-testid="dry-run" sx={{ mt: 0.75 }}>
      <Typography variant="body2" sx={{ fontWeight: 700 }}>
        {summary.sentence}
      </Typography>
      {summary.taken > 0 && (
        <Typography variant="body2" color="text.secondary">
          {summary.profit
            ? `Profit ${signedMoney(summary.profit.value)} (${signedMoney(summary.profit.low)} to ${signedMoney(summary.profit.high)})`
            : 'Its profit cannot be told: what some of the products cost is not known'}
          {summary.untold > 0 && `; what ${counted(summary.untold, 'finding')} do cannot be told`}.
        </Typography>
      )}
      {saved && <Difference of={summary} to={saved.summary} />}
      <NightsPicture nights={nights} chosen={night?.day ?? null} onChoose={setChosen} />
      {night && (
        <>
          <Typography variant="body2" sx={{ mt: 0.5 }}>
            {shortDay(night.day)}: took {count(night.taken)} of {count(night.found)}, {count(night.beyond)}{' '}
            beyond its limits, {count(night.left)} held back.
          </Typography>
          {night.items.map((item) => (
            <Box key={item.key} sx={{ borderTop: 1, borderColor: 'divider', py: 0.5 }}>
              <b>{item.subject}</b>{' '}
              {item.campaign !== item.subject && <span className="soft">{item.campaign}</span>}
              <br />
              {item.sentence}
            </Box>
          ))}
        </>
      )}
    </Box>
  );
}

/** What a change of a routine makes of its dry run. */
function Difference({ of, to }: { of: DryAnswer['summary']; to: DryAnswer['summary'] }) {
  const more = of.taken - to.taken;
  return (
    <Typography variant="body2" data-testid="dry-difference">
      As it is saved: {counted(to.taken, 'finding')}, spend {signedMoney(to.spend.value)}, sales{' '}
      {signedMoney(to.sales.value)}. The change makes{' '}
      {more === 0 ? 'as many' : `${counted(Math.abs(more), 'finding')} ${more > 0 ? 'more' : 'fewer'}`},{' '}
      {signedMoney(of.spend.value - to.spend.value)} of spend and{' '}
      {signedMoney(of.sales.value - to.sales.value)} of sales.
    </Typography>
  );
}
