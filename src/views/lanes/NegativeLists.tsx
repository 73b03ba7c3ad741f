import type { NegativeListAnswer, NegativeListRow, NegativePlaceRow } from '../../answers/terms.ts';
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
import { useRef, useState } from 'react';
import { at } from '../../ui/address.ts';
import { count } from '../../core/metrics/format.ts';
import { get, send, upload } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { campaignsOf, typeNames } from './negatives.ts';

/** Lists of negatives under a name: kept here, attached to campaigns, put there by the sheet. */
export function NegativeLists({ places, onClose }: { places: NegativePlaceRow[]; onClose: () => void }) {
  const [chosen, setChosen] = useState<number | 'new' | null>(null);
  const lists = useQuery({
    queryKey: ['lists'],
    queryFn: () => get<{ lists: NegativeListRow[] }>('/api/terms/lists'),
  });
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth onKeyDown={(event) => event.stopPropagation()}>
      <DialogTitle sx={{ pb: 1 }}>Lists of negatives</DialogTitle>
      <DialogContent sx={{ display: 'grid', gridTemplateColumns: '220px 1fr', gap: 3, minHeight: 380 }}>
        <Box>
          {(lists.data?.lists ?? []).map((list) => (
            <Button
              key={list.id}
              fullWidth
              sx={{
                justifyContent: 'flex-start',
                textAlign: 'left',
                fontWeight: list.id === chosen ? 700 : 400,
              }}
              aria-pressed={list.id === chosen}
              onClick={() => setChosen(list.id)}
            >
              {list.name}, {count(list.entries)} in {count(list.campaigns)} campaigns
            </Button>
          ))}
          <Button fullWidth sx={{ justifyContent: 'flex-start' }} onClick={() => setChosen('new')}>
            New list
          </Button>
        </Box>
        {chosen === null ? (
          <Typography color="text.secondary">
            A list holds negatives under a name. Attach it to campaigns, and what is missing there goes onto
            the sheet in one step.
          </Typography>
        ) : chosen === 'new' ? (
          <ListForm
            key="new"
            list={{ name: '', entries: [], campaignIds: [] }}
            places={places}
            onSaved={setChosen}
            onGone={() => setChosen(null)}
          />
        ) : (
          <KnownList
            key={chosen}
            id={chosen}
            places={places}
            onSaved={setChosen}
            onGone={() => setChosen(null)}
          />
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

interface FormProps {
  places: NegativePlaceRow[];
  onSaved: (id: number) => void;
  onGone: () => void;
}

function KnownList({ id, ...props }: FormProps & { id: number }) {
  const list = useQuery({
    queryKey: ['lists', id],
    queryFn: () => get<NegativeListAnswer>(`/api/terms/lists/${id}`),
  });
  if (list.isError) return <Typography color="error">{list.error.message}</Typography>;
  if (!list.data) return <Typography color="text.secondary">Reading the list.</Typography>;
  return <ListForm key={list.dataUpdatedAt} list={list.data} known={list.data} {...props} />;
}

const lineOf = ({ matchType, expression }: NegativeListAnswer['entries'][number]): string =>
  matchType === 'negative_phrase'
    ? expression
    : `${(typeNames[matchType] ?? '').replace('negative ', '')}: ${expression}`;

const entryOf = (line: string): NegativeListAnswer['entries'][number] => {
  const [, type, rest] = /^(exact|phrase|item)\s*:\s*(.*)$/i.exec(line) ?? [];
  const kind = (type ?? 'phrase').toLowerCase() as 'exact' | 'phrase' | 'item';
  return { matchType: `negative_${kind}`, expression: rest ?? line };
};

interface ListFormProps extends FormProps {
  list: { name: string; entries: NegativeListAnswer['entries']; campaignIds: string[] };
  known?: NegativeListAnswer;
}

function ListForm({ list, known, places, onSaved, onGone }: ListFormProps) {
  const { act, putLines, failed } = useAct();
  const [name, setName] = useState(list.name);
  const [text, setText] = useState(list.entries.map(lineOf).join('\n'));
  const [campaignIds, setCampaigns] = useState<ReadonlySet<string>>(new Set(list.campaignIds));
  const file = useRef<HTMLInputElement>(null);
  const entries = text
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== '')
    .map(entryOf);
  const save = async () => {
    const body = { name, entries, campaignIds: [...campaignIds] };
    let id = known?.id ?? 0;
    const done = await act(async () => {
      const answer = known
        ? await send<{ id: number }>('PUT', `/api/terms/lists/${known.id}`, body)
        : await send<{ id: number }>('POST', '/api/terms/lists', body);
      id = answer.id;
    }, `“${name}” is saved.`);
    if (done) onSaved(id);
  };
  const load = async (chosen: File) => {
    try {
      const { entries: read } = await upload<{ entries: NegativeListAnswer['entries'] }>(
        '/api/terms/lists/read',
        chosen,
      );
      setText([...entries, ...read].map(lineOf).join('\n'));
    } catch (error) {
      failed(error);
    }
  };
  const toggle = (id: string) =>
    setCampaigns((old) => {
      const next = new Set(old);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const campaigns = campaignsOf(places);
  return (
    <Box sx={{ display: 'grid', gap: 1.25, alignContent: 'start', pt: 0.5 }}>
      <TextField
        label="Name"
        value={name}
        onChange={(event) => setName(event.target.value)}
        autoFocus={!known}
      />
      <TextField
        label="One phrase a line; “exact: …” for an exact one"
        multiline
        rows={6}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Box>
        <Typography variant="body2" sx={{ fontWeight: 700 }}>
          Attached to {count(campaignIds.size)} of {count(campaigns.length)} campaigns
          <Button
            size="small"
            onClick={() =>
              setCampaigns(
                new Set(campaignIds.size === campaigns.length ? [] : campaigns.map(({ id }) => id)),
              )
            }
          >
            {campaignIds.size === campaigns.length ? 'None' : 'All'}
          </Button>
        </Typography>
        <Box
          tabIndex={0}
          role="group"
          aria-label="Campaigns"
          sx={{
            maxHeight: 130,
            overflow: 'auto',
            fontSize: sizes.table,
            columns: 2,
            border: 1,
            borderColor: 'divider',
            p: 0.75,
          }}
        >
          {campaigns.map(({ id, name: campaign }) => (
            <Box component="label" key={id} sx={{ display: 'block' }}>
              <input type="checkbox" checked={campaignIds.has(id)} onChange={() => toggle(id)} /> {campaign}
            </Box>
          ))}
        </Box>
      </Box>
      {known && (
        <Typography variant="body2" data-testid="list-sentence">
          {known.campaignIds.length === 0
            ? 'It is attached to no campaign yet.'
            : `${count(known.standing)} stand in its campaigns, ${count(known.missing)} are missing.`}
        </Typography>
      )}
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        <Button variant="contained" size="small" disabled={name.trim() === ''} onClick={() => void save()}>
          Save list
        </Button>
        {known && known.missing > 0 && (
          <Button
            size="small"
            variant="outlined"
            onClick={() => void putLines(`/api/terms/lists/${known.id}/apply`, {}, `list “${known.name}”`)}
          >
            Add {count(known.missing)} missing to the sheet
          </Button>
        )}
        <Button size="small" onClick={() => file.current?.click()}>
          Load a file
        </Button>
        <input
          ref={file}
          type="file"
          accept=".csv,.txt,text/csv,text/plain"
          aria-label="File of negatives"
          hidden
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = '';
            if (chosen) void load(chosen);
          }}
        />
        {known && (
          <>
            <Button size="small" href={at(`/api/terms/lists/${known.id}/file`)} download="negatives.csv">
              Save as CSV
            </Button>
            <Button
              size="small"
              onClick={() =>
                void act(
                  () => send('DELETE', `/api/terms/lists/${known.id}`),
                  `“${known.name}” is gone; what it placed stays.`,
                ).then((done) => done && onGone())
              }
            >
              Remove list
            </Button>
          </>
        )}
      </Box>
    </Box>
  );
}
