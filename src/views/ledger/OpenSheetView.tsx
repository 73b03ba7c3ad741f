import { Figure } from '../../ui/parts/Figure.tsx';
import { useAct } from '../../ui/hooks/useAct.ts';
import { ListHead, Failed, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { overGoalText } from '../../ui/shell/overGoal.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Link from '@mui/material/Link';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { LineNumbers, OpenSheet, SheetLine } from '../../answers/changes.ts';
import { count, counted, money, signedDecimal, signedMoney } from '../../core/metrics/format.ts';
import { placementName } from '../../core/placements/names.ts';
import { at } from '../../ui/address.ts';
import { get, send } from '../../ui/api.ts';
import { setUrl } from '../../ui/hooks/useUrlState.ts';
import { sizes } from '../../ui/theme.ts';
import { useSeason, useSheet } from '../../ui/shell/data.ts';
import { undoable } from '../../ui/undo.ts';
import { LineFilters, useLineView, viewProblems } from './LineFilters.tsx';
import { PlannedTrials, TrialDialog, type Tried } from '../trials/TrialDialog.tsx';
import { OpenLines, type Meant } from './OpenLines.tsx';

/** The numbers of the lines meant; an error where they are not those that were seen. */
async function numbersOf(meant: Meant): Promise<number[]> {
  if ('line' in meant) return [meant.line.line_id];
  const { key, lines, title } = meant.group;
  const { lineIds } = await get<LineNumbers>(`/api/sheet/numbers?group=${encodeURIComponent(key)}`);
  if (lineIds.length === lines) return lineIds;
  throw new Error(
    `${title} had ${counted(lines, 'line')} and has ${count(lineIds.length)} now: somebody changed the sheet. Nothing was done; look at it again.`,
  );
}

/** The open sheet: what waits to be sent or carried over, line by line. */
export function OpenSheetView() {
  const sheet = useSheet();
  const season = useSeason();
  const view = useLineView();
  const queries = useQueryClient();
  const { act: put } = useAct();
  const [busy, setBusy] = useState(false);
  const [tried, setTried] = useState<Tried | null>(null);
  const data = sheet.data;
  // What was confirmed is what was seen: another campaign, or another price, is asked anew.
  const unusualKey = JSON.stringify(data?.unusual ?? []);
  const [isMeant, setMeant] = useState('');

  /** Whatever comes of it, the sheet is looked at again: somebody else may have changed it. */
  const act = async <Answer,>(work: () => Promise<Answer>, said: string | ((answer: Answer) => string)) => {
    setBusy(true);
    const again = () => void queries.invalidateQueries({ queryKey: ['sheet'] });
    await put(work, said, { refresh: [['sheet'], ['ledger']], onFail: again });
    setBusy(false);
  };
  const onRemove = (meant: Meant, label: string) =>
    void act(async () => {
      const lineIds = await numbersOf(meant);
      await undoable({ kind: 'remove', lineIds }, label, (call) =>
        send('POST', '/api/sheet/lines', { lineIds }, call),
      );
    }, `${label}. ctrl z puts it back.`);
  const onEdit = (line: SheetLine, change: { newValue?: string; rebase?: boolean; name?: string }) =>
    void act(
      () => send('POST', `/api/sheet/lines/${line.line_id}`, { ...change, version: line.version }),
      '',
    );
  const onTry = (meant: Meant) =>
    void act(async () => {
      const lineIds = await numbersOf(meant);
      const title = 'group' in meant ? meant.group.title : (meant.line.expression ?? meant.line.campaign);
      setTried({ lineIds, lines: lineIds.length, title });
    }, '');
  const onSend = () =>
    void act(async () => {
      const { sheetId } = await send<{ sheetId: number }>('POST', '/api/sheet/send', {
        lines: data?.lines,
        clicksMeant: isMeant === unusualKey,
      });
      setUrl({ sheet: String(sheetId) }, true);
    }, '');
  const onCarried = (meant: Meant | null) =>
    void act(
      async () => {
        const lineIds = meant === null ? null : await numbersOf(meant);
        const done = await send<{ sheetId: number; lines: number; left: number }>(
          'POST',
          '/api/sheet/carried',
          {
            lineIds,
            lines: data?.lines,
          },
        );
        void queries.invalidateQueries();
        if (done.left === 0) setUrl({ sheet: String(done.sheetId) }, true);
        return done;
      },
      ({ lines, sheetId }) => `${counted(lines, 'line')} noted as applied, as sheet ${sheetId}.`,
    );

  if (!data)
    return sheet.isError ? (
      <Failed error={sheet.error} onRetry={() => void sheet.refetch()} />
    ) : (
      <Waiting>Opening the sheet.</Waiting>
    );
  const source = season.data?.account.source ?? 'the marketplace';
  const none = data.lines === 0;
  const blocked = busy || data.conflicts > 0;
  const isAsked = data.unusual.length > 0 && isMeant !== unusualKey;
  return (
    <ListPage
      problems={none ? [] : viewProblems()}
      head={
        <ListHead
          name="sheet"
          sentence={
            none
              ? 'The open sheet is empty. Accept findings in Round; they gather here until you send them or carry them over.'
              : sentence(data)
          }
          actions={
            !none && (
              <>
                <Button
                  onClick={() =>
                    setTried({ lineIds: null, lines: data.lines, title: `Sheet ${data.sheetId}` })
                  }
                >
                  Try as a trial
                </Button>
                <Button href={at(`/api/ledger/${data.sheetId}/export`)} download>
                  Export as CSV
                </Button>
                {source === 'files' ? (
                  <Button variant="contained" disabled={blocked} onClick={() => onCarried(null)}>
                    Mark {counted(data.lines, 'line')} as applied
                  </Button>
                ) : (
                  <Button variant="contained" disabled={blocked || isAsked} onClick={onSend}>
                    Send {counted(data.lines, 'line')} to {source}
                  </Button>
                )}
              </>
            )
          }
          notes={
            <>
              <PlannedTrials />
              {data.unusual.length > 0 && (
                <Unusual
                  unusual={data.unusual}
                  isMeant={!isAsked}
                  onMean={(yes) => setMeant(yes ? unusualKey : '')}
                />
              )}
            </>
          }
          filters={
            !none && (
              <LineFilters
                view={view}
                counts={{ all: data.lines, conflicts: data.conflicts, overtaken: data.overtaken }}
              />
            )
          }
        />
      }
    >
      {!none && (
        <OpenLines
          view={view}
          onRemove={onRemove}
          onEdit={onEdit}
          onTry={onTry}
          {...(source === 'files' ? { onApplied: onCarried } : {})}
        />
      )}
      {tried && <TrialDialog tried={tried} onClose={() => setTried(null)} />}
    </ListPage>
  );
}

const sentence = ({ lines, effect, unforecast, newBudgets, conflicts, overtaken, overGoal }: OpenSheet) => (
  <>
    <b>{counted(lines, 'line')}</b>
    {unforecast === lines ? (
      ': what they change in money is not forecast.'
    ) : (
      <>
        {' '}
        should change spend by{' '}
        <Figure name="effect" label="Change of spend">
          <b>{signedMoney(effect.spend)}</b>
        </Figure>{' '}
        ± {money(effect.spendSpread)} and sales by{' '}
        <Figure name="effect_sales" label="Change of sales">
          <b>{signedMoney(effect.sales)}</b>
        </Figure>{' '}
        ± {money(effect.salesSpread)} a week, by {signedDecimal(effect.orders)} orders
        {effect.profit !== null && `, ad profit by ${signedMoney(effect.profit)}`}.
        {unforecast > 0 && ` Of ${counted(unforecast, 'line')} nothing is forecast.`}
      </>
    )}
    {newBudgets.daily + newBudgets.lifetime > 0 &&
      ` New campaigns may spend up to ${[
        ...(newBudgets.daily > 0 ? [`${money(newBudgets.daily)} a day`] : []),
        ...(newBudgets.lifetime > 0 ? [`${money(newBudgets.lifetime)} in all their days`] : []),
      ].join(' and ')}; how much of it they will is not forecast.`}
    {conflicts > 0 && ` ${counted(conflicts, 'line')} conflict: keep one of each before sending.`}
    {overtaken > 0 && ` ${count(overtaken)} have been overtaken by another change.`}
    {overGoal.map((one) => (
      <Box
        component="span"
        key={`${one.scope} ${one.key}`}
        data-testid="over-goal"
        sx={{ display: 'block', mt: 0.5, color: 'error.main', fontWeight: 600 }}
      >
        {overGoalText(one)}
      </Box>
    ))}
  </>
);

interface UnusualProps {
  unusual: OpenSheet['unusual'];
  isMeant: boolean;
  onMean: (isMeant: boolean) => void;
}

/** Where bids, modifiers and strategies multiply into what is hardly meant: named, and confirmed before it is sent. */
const Unusual = ({ unusual, isMeant, onMean }: UnusualProps) => (
  <Box
    data-testid="unusual-clicks"
    sx={{ borderLeft: 3, borderColor: 'error.main', pl: 1.5, fontSize: sizes.table, lineHeight: 1.5 }}
  >
    <b>
      In {counted(unusual.length, 'campaign')} a click may cost over twice its bid
      {unusual.length > 3 ? ', most of all' : ''}:
    </b>{' '}
    {unusual.slice(0, 3).map(({ campaignId, name, placement, bid, before, after }, index) => (
      <span key={campaignId}>
        {index > 0 && '; '}
        <Link href={placementsOf(campaignId)}>{name}</Link>{' '}
        {placement === '' ? '' : `on ${placementName(placement)} `}
        {money(after)} instead of {money(before)}, for a bid of {money(bid)}
      </span>
    ))}
    .
    <FormControlLabel
      sx={{ display: 'flex', ml: -1, '& .MuiFormControlLabel-label': { fontSize: sizes.table } }}
      control={<Checkbox size="small" checked={isMeant} onChange={(_, checked) => onMean(checked)} />}
      label="It is meant: send it so"
    />
  </Box>
);

const placementsOf = (campaignId: string): string => at(`/spend?part=where&campaign=${campaignId}`);
