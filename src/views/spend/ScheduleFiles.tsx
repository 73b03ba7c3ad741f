import type { ReadSchedules } from '../../answers/hours.ts';
import { flat, readSchedule, scheduleSaid } from '../../core/account/schedule.ts';
import type { Window } from '../../core/metrics/days.ts';
import { counted } from '../../core/metrics/format.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { FileOffer } from '../../ui/parts/FileOffer.tsx';

const said = (text: string): string => scheduleSaid(readSchedule(text) ?? flat());

/** Saves schedules to a file and loads them from one: what it would change is looked at before it goes onto the sheet. */
export function ScheduleFiles({ window }: { window: Window }) {
  const { putLines } = useAct();
  return (
    <FileOffer<ReadSchedules, ReadSchedules['schedules'][number]>
      noun="schedule"
      label="A file of schedules"
      saved="/api/spend/hours/file"
      reads="/api/spend/hours/file"
      changesOf={({ schedules }) => schedules}
      keyOf={({ campaignId }) => campaignId}
      line={({ name, from, schedule }) => (
        <>
          {name}: {said(from)} → <b>{said(schedule)}</b>
        </>
      )}
      takes={(some) => `Add ${some} to the sheet`}
      onTake={(changes) =>
        putLines(
          '/api/spend/hours',
          {
            ...window,
            schedules: changes.map(({ campaignId, schedule }) => ({ campaignId, schedule })),
            source: 'file',
          },
          `${counted(changes.length, 'schedule')} from a file`,
        )
      }
    />
  );
}
