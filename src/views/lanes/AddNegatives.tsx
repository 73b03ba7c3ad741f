import type { NegativesAnswer, NegativesPreview } from '../../answers/terms.ts';
import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState, type FormEvent } from 'react';
import { count, counted } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { useAct } from '../../ui/hooks/useAct.ts';
import { campaignsOf } from './negatives.ts';

type Scope = 'ad_group' | 'campaign' | 'product' | 'list' | 'account';

/** Adds negatives, one or ten thousand: what cannot be one is said line by line before anything goes onto the sheet. */
export function AddNegatives({ answer, onClose }: { answer: NegativesAnswer; onClose: () => void }) {
  const { places } = answer;
  const { putLines } = useAct();
  const [text, setText] = useState('');
  const [matchType, setMatchType] = useState('negative_phrase');
  const [scope, setScope] = useState<Scope>('campaign');
  const [id, setId] = useState('');
  const [sending, setSending] = useState(false);
  const options: Record<Scope, { id: string; name: string }[]> = {
    ad_group: places.map(({ adGroupId, adGroup, campaign }) => ({
      id: adGroupId,
      name: adGroup === campaign ? adGroup : `${campaign}, ${adGroup}`,
    })),
    campaign: campaignsOf(places),
    product: [...new Set(places.map(({ sku }) => sku ?? ''))]
      .filter((sku) => sku !== '')
      .map((sku) => ({ id: sku, name: sku })),
    list: answer.lists.map(({ id: list, name }) => ({ id: String(list), name })),
    account: [],
  };
  const chosen = scope === 'account' ? [] : [id || (options[scope][0]?.id ?? '')];
  const typed = useDeferredValue(text);
  const asked = { texts: typed.split(/\r?\n/), matchType, scope, ids: chosen };
  const preview = useQuery({
    queryKey: ['negatives preview', typed, matchType, scope, chosen],
    queryFn: () => ask<NegativesPreview>('/api/terms/negatives/preview', asked),
    enabled: typed.trim() !== '',
    retry: false,
    placeholderData: (previous) => previous,
  });
  const data = text.trim() === '' ? undefined : preview.data;
  const nothing = !data || (data.lines === 0 && scope !== 'list');
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    if (!data || nothing) return;
    const body = { texts: text.split(/\r?\n/), matchType, scope, ids: chosen };
    setSending(true);
    const label = `${counted(data.lines, 'negative')} added`;
    if (await putLines('/api/terms/negatives', body, label)) onClose();
    else setSending(false);
  };
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth onKeyDown={(event) => event.stopPropagation()}>
      <Box component="form" onSubmit={(event) => void submit(event)} sx={{ display: 'contents' }}>
        <DialogTitle sx={{ pb: 1 }}>Add negatives</DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 1.25, '&&': { pt: 0.5 } }}>
          <Box
            sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap', fontSize: sizes.table }}
          >
            <Choice
              aria-label="Type"
              value={matchType}
              onChange={(event) => setMatchType(event.target.value)}
            >
              <option value="negative_phrase">negative phrase</option>
              <option value="negative_exact">negative exact</option>
            </Choice>
            in
            <Choice
              aria-label="Scope"
              value={scope}
              onChange={(event) => {
                setScope(event.target.value as Scope);
                setId('');
              }}
            >
              <option value="ad_group">an ad group</option>
              <option value="campaign">a campaign</option>
              <option value="product">all campaigns of a product</option>
              <option value="account">all campaigns</option>
              {answer.lists.length > 0 && <option value="list">a list</option>}
            </Choice>
            {scope !== 'account' && (
              <Choice aria-label="Where" value={chosen[0]} onChange={(event) => setId(event.target.value)}>
                {options[scope].map((one) => (
                  <option key={one.id} value={one.id}>
                    {one.name}
                  </option>
                ))}
              </Choice>
            )}
          </Box>
          <TextField
            label="One a line; item codes are known as such"
            multiline
            // A fixed height: measuring ten thousand lines at every letter would stop the page.
            rows={8}
            autoFocus
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          {preview.isError && (
            <Typography role="alert" color="error" variant="body2">
              {preview.error.message}
            </Typography>
          )}
          {data && (
            <Typography variant="body2" data-testid="negatives-preview">
              <b>{count(data.lines)} lines</b> in {count(data.places)} place{data.places === 1 ? '' : 's'}.
              {data.standing > 0 && ` ${count(data.standing)} stand there already.`}
              {data.repeated > 0 && ` ${count(data.repeated)} are repeated.`}
              {data.problems.length > 0 && ` ${count(data.problems.length)} can’t be added:`}
            </Typography>
          )}
          {data?.problems.slice(0, 8).map((problem) => (
            <Typography
              key={`${problem.line} ${problem.text}`}
              variant="body2"
              color="error"
              sx={{ overflowWrap: 'anywhere' }}
            >
              {problem.line > 0 ? `Line ${problem.line}, “${problem.text}”` : problem.text}: {problem.message}
            </Typography>
          ))}
          {data && data.problems.length > 8 && (
            <Typography variant="body2" color="text.secondary">
              and {count(data.problems.length - 8)} more
            </Typography>
          )}
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={nothing || sending}>
            Add {count(data?.lines ?? 0)} {data?.lines === 1 ? 'line' : 'lines'} to the sheet
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
