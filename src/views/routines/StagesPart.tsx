import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { StagesAnswer } from '../../answers/routines.ts';
import { acos } from '../../core/metrics/figures.ts';
import { count, counted, money, percent } from '../../core/metrics/format.ts';
import { stageNames } from '../../core/routines/stages.ts';
import { longDay } from '../../ui/days.ts';
import { Part } from '../../ui/parts/Panel.tsx';
import { useStages } from './useRoutines.ts';

type Group = StagesAnswer['groups'][number];

/** The stages of a budget group: what each has, and where its campaigns stand. */
export function StagesPart({ routineId }: { routineId: number }) {
  const asked = useStages(routineId, true);
  if (!asked.data)
    return (
      <Part title="Stages">{asked.isError ? asked.error.message : 'Looking where campaigns stand.'}</Part>
    );
  if (asked.data.groups.length === 0)
    return <Part title="Stages">Its budget group has gone, or holds no campaign that runs.</Part>;
  return asked.data.groups.map((group) => <GroupStages key={group.object} group={group} />);
}

function GroupStages({ group: { name, shares, campaigns } }: { group: Group }) {
  return (
    <Part title={`Stages of ${name}`}>
      {shares.map(({ stage, money: share }) => {
        const own = campaigns.filter(({ now }) => now.stage === stage);
        const sums = own.reduce(
          (all, one) => ({
            clicks: all.clicks + one.clicks,
            spend: all.spend + one.spend,
            orders: all.orders + one.orders,
            sales: all.sales + one.sales,
          }),
          { clicks: 0, spend: 0, orders: 0, sales: 0 },
        );
        return (
          <Box key={stage} component="section" aria-label={stageNames[stage]} sx={{ mt: 0.75 }}>
            <Typography variant="body2">
              <b>{stageNames[stage]}</b>: {counted(own.length, 'campaign')}
              {own.length > 0 &&
                `, ${money(share)} a day; ${money(sums.spend)} spent for ${money(sums.sales)}, ACOS ${percent(acos(sums))}`}
            </Typography>
            {own.map((one) => (
              <Box key={one.campaignId} sx={{ borderTop: 1, borderColor: 'divider', py: 0.5 }}>
                <Box sx={{ display: 'flex', gap: 1 }}>
                  <Box component="b" sx={{ flex: 1 }}>
                    {one.name}
                  </Box>
                  <span>
                    {one.budget === null
                      ? 'no daily budget'
                      : one.becomes === null
                        ? `${money(one.budget)} stays`
                        : `${money(one.budget)} → ${money(one.becomes)}`}
                  </span>
                </Box>
                <Typography variant="body2" color="text.secondary">
                  {count(one.orders)} orders for {money(one.spend)}. {one.why}
                  {one.was && one.was.stage !== one.now.stage
                    ? ` From ${stageNames[one.was.stage].toLowerCase()}.`
                    : ` There since ${longDay(one.now.since)}.`}
                </Typography>
              </Box>
            ))}
          </Box>
        );
      })}
    </Part>
  );
}
