import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import type { DeskAnswer } from '../../answers/kits.ts';
import { lineCount } from '../../core/kits/lines.ts';
import { planTotals } from '../../core/kits/plan.ts';
import type { PartEdit } from '../../core/kits/types.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Failed, ListHead, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { Shell } from '../../ui/shell/Shell.tsx';
import { Inputs } from './Inputs.tsx';
import { PagePicker } from './PagePicker.tsx';
import { RecipeParts } from './RecipeParts.tsx';
import type { Panel } from './parts.tsx';
import { PlanTree } from './PlanTree.tsx';
import { useDesk, useDraft, useGrounds, usePlans, type Keeping } from './useKit.ts';
import { KitsList } from './KitsList.tsx';
export function KitsView() {
  return (
    <Shell>
      <Kits />
    </Shell>
  );
}

function Kits() {
  const desk = useDesk();
  const [kitId, setKit] = useUrlState('kit', true);
  if (desk.isError) return <Failed error={desk.error} onRetry={() => void desk.refetch()} />;
  if (!desk.data) return <Waiting>Reading products and recipes.</Waiting>;
  return kitId === null ? (
    <KitsList desk={desk.data} onOpen={setKit} />
  ) : (
    <Bench key={kitId} kitId={kitId} desk={desk.data} onClose={() => setKit(null)} />
  );
}

/** The bench: what goes in at the left, at the right what would be made of it. */
function Bench({ kitId, desk, onClose }: { kitId: string; desk: DeskAnswer; onClose: () => void }) {
  const { kit, body, change, keep, keeping, reload } = useDraft(kitId);
  const { grounds, isReading, failed } = useGrounds(body?.skus ?? noSkus);
  const { plans, checks, isBehind } = usePlans(body, desk, grounds);
  const { putLines } = useAct();
  const queries = useQueryClient();
  const [isPutting, setPutting] = useState(false);
  const [panel, setPanel] = useState<Panel | null>(null);
  const edit = useCallback(
    (sku: string, part: string, to: PartEdit) =>
      change((old) => ({
        ...old,
        edits: {
          ...old.edits,
          [sku]: { ...old.edits[sku], [part]: { ...old.edits[sku]?.[part], ...to } },
        },
      })),
    [change],
  );
  if (kit.isError) return <Failed error={kit.error} onRetry={() => void kit.refetch()} />;
  if (!body) return <Waiting>Reading the kit.</Waiting>;

  const problems = plans.flatMap((plan) => plan.problems);
  const stops = problems.filter((one) => one.stops).length;
  const totals = plans.map(planTotals);
  const sum = (name: keyof ReturnType<typeof planTotals>) => totals.reduce((all, one) => all + one[name], 0);
  const lines = plans.reduce((all, plan) => all + lineCount(plan), 0);
  const isReady =
    lines > 0 && body.skus.every((sku) => grounds.has(sku)) && stops === 0 && !isBehind && !isReading;
  const put = async () => {
    setPutting(true);
    try {
      const version = await keep();
      await putLines(`/api/kits/${kitId}/sheet`, { version }, body.name, {
        refresh: [['sheet'], ['kits'], ['kit', kitId]],
      });
    } catch {
      // What could not be kept is said beside the name.
    } finally {
      setPutting(false);
      void queries.invalidateQueries({ queryKey: ['kits', 'desk'] });
    }
  };
  return (
    <ListPage
      head={
        <ListHead
          title={body.name}
          name="kit"
          sentence={
            body.skus.length === 0 ? (
              'Add a product: its plan stands at the right at once.'
            ) : (
              <>
                <b>{counted(sum('campaigns'), 'campaign')}</b>
                {sum('standing') > 0 &&
                  ` beside ${count(sum('standing'))} that ${sum('standing') === 1 ? 'stands' : 'stand'}`}
                , {counted(sum('targets'), 'target')}, {counted(sum('negatives'), 'negative')}
                {sum('archives') > 0 && `, ${count(sum('archives'))} archived`} for{' '}
                {counted(body.skus.length, 'product')}, at most{' '}
                <b>
                  {desk.currency} {money(sum('dailyBudget'))}
                </b>{' '}
                a day.{' '}
                {body.skus.some((sku) => !grounds.has(sku))
                  ? 'Products are being read.'
                  : stops > 0
                    ? `${counted(stops, 'problem')} ${stops === 1 ? 'keeps' : 'keep'} it off the sheet.`
                    : lines === 0
                      ? 'Everything stands as it would be made.'
                      : 'Nothing keeps it off the sheet.'}
                {kit.data?.onSheet === true &&
                  !body.completes &&
                  ' It was put onto a sheet before: once that is sent, this makes another set.'}
              </>
            )
          }
          actions={
            <>
              <Kept keeping={keeping} onReload={reload} />
              <Button size="small" onClick={() => void keep().then(onClose, () => undefined)}>
                All kits
              </Button>
              <Button
                size="small"
                variant="contained"
                disabled={!isReady || isPutting}
                onClick={() => void put()}
              >
                Put {counted(lines, 'line')} onto the sheet
              </Button>
            </>
          }
        />
      }
    >
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex', borderTop: 1, borderColor: 'divider' }}>
        <Inputs
          body={body}
          desk={desk}
          grounds={grounds}
          checks={checks}
          plans={plans}
          change={change}
          panel={panel}
          onPanel={setPanel}
        />
        {failed ? (
          <Failed
            error={failed}
            onRetry={() => void queries.invalidateQueries({ queryKey: ['kits', 'grounds'] })}
          />
        ) : plans.length > 0 ? (
          <PlanTree body={body} plans={plans} grounds={grounds} onEdit={edit}>
            {panel === 'recipe' && <RecipeParts body={body} change={change} onClose={() => setPanel(null)} />}
            {panel === 'pages' && (
              <PagePicker
                body={body}
                desk={desk}
                grounds={grounds}
                change={change}
                onClose={() => setPanel(null)}
              />
            )}
          </PlanTree>
        ) : (
          <Box sx={{ p: 3, maxWidth: 420 }}>
            <Typography color="text.secondary">
              {body.skus.length === 0
                ? 'The plan stands here: every campaign with its name, budget, targets and negatives, each to be changed where it stands.'
                : 'The products are being read.'}
            </Typography>
          </Box>
        )}
      </Box>
    </ListPage>
  );
}

const noSkus: readonly string[] = [];

/** Whether the draft is kept as it stands here. */
function Kept({ keeping, onReload }: { keeping: Keeping; onReload: () => void }) {
  if (typeof keeping === 'object')
    return (
      <Typography variant="body2" role="alert" color="error" sx={{ maxWidth: 320 }}>
        Not kept: {keeping.failed}{' '}
        <Button size="small" onClick={onReload}>
          Load anew
        </Button>
      </Typography>
    );
  return (
    <Typography variant="body2" role="status" color="text.secondary" sx={{ alignSelf: 'center' }}>
      {keeping === 'kept' ? 'Kept' : 'Being kept'}
    </Typography>
  );
}
