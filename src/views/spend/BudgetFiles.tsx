import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useRef, useState } from 'react';
import type { ReadBudgets } from '../../answers/spend.ts';
import type { Window } from '../../core/metrics/days.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { at } from '../../ui/address.ts';
import { upload } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';

/** So many rows of a file are shown; all of them count. */
const shown = 100;

/** Saves budgets to a file and loads them from one: what it would change is looked at before it goes onto the sheet. */
export function BudgetFiles({ window }: { window: Window }) {
  const { putLines, failed } = useAct();
  const [offer, setOffer] = useState<(ReadBudgets & { name: string }) | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const read = async (chosen: File) => {
    try {
      setOffer({ name: chosen.name, ...(await upload<ReadBudgets>('/api/spend/budgets/file', chosen)) });
    } catch (error) {
      failed(error);
    }
  };
  const take = async () => {
    const budgets = offer!.budgets.map(({ campaignId, budget }) => ({ campaignId, budget }));
    const body = { ...window, budgets, source: 'file' };
    const done = await putLines(
      '/api/spend/budgets',
      body,
      `${counted(budgets.length, 'budget')} from a file`,
    );
    if (done) setOffer(null);
  };
  return (
    <>
      <Button size="small" onClick={() => file.current?.click()}>
        Load
      </Button>
      <input
        ref={file}
        type="file"
        hidden
        accept=".csv,text/csv"
        aria-label="A file of budgets"
        onChange={({ target }) => {
          const [chosen] = target.files ?? [];
          if (chosen) void read(chosen);
          target.value = '';
        }}
      />
      <Button size="small" href={at(`/api/spend/budgets/file?from=${window.from}&to=${window.to}`)} download>
        Save
      </Button>
      <Dialog open={offer !== null} onClose={() => setOffer(null)} maxWidth="sm" fullWidth>
        {offer && (
          <>
            <DialogTitle>Budgets in {offer.name}</DialogTitle>
            <DialogContent>
              <Typography>
                {offer.budgets.length === 0
                  ? 'No budget would change.'
                  : `${counted(offer.budgets.length, 'budget')} would change.`}
              </Typography>
              <ul>
                {offer.budgets.slice(0, shown).map(({ campaignId, name, from, budget }) => (
                  <li key={campaignId}>
                    {name}: {money(from)} → <b>{money(budget)}</b>
                  </li>
                ))}
                {offer.budgets.length > shown && <li>and {count(offer.budgets.length - shown)} more</li>}
              </ul>
              {offer.problems.length > 0 && (
                <>
                  <Typography color="error">
                    {counted(offer.problems.length, 'row')} cannot be read and{' '}
                    {offer.problems.length === 1 ? 'is' : 'are'} left out:
                  </Typography>
                  <ul>
                    {offer.problems.slice(0, shown).map(({ row, column, message }) => (
                      <li key={`${row} ${column}`}>
                        Line {row}, {column}: {message}
                      </li>
                    ))}
                  </ul>
                </>
              )}
            </DialogContent>
            <DialogActions>
              <Button onClick={() => setOffer(null)}>Leave it</Button>
              <Button variant="contained" disabled={offer.budgets.length === 0} onClick={() => void take()}>
                Add {counted(offer.budgets.length, 'budget')} to the sheet
              </Button>
            </DialogActions>
          </>
        )}
      </Dialog>
    </>
  );
}
