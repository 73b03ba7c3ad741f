import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import type { DeskAnswer, KitAnswer, KitRow, ReadKits } from '../../answers/kits.ts';
import { usualKit, type KitBody } from '../../core/kits/kit.ts';
import { counted, money } from '../../core/metrics/format.ts';
import { get, send, upload } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Empty, Failed, ListHead, ListPage } from '../../ui/list/ListPage.tsx';
import { sizes } from '../../ui/theme.ts';
import { Collections } from './Collections.tsx';
import { newName } from './parts.tsx';

const freshBody = ({ recipes }: DeskAnswer): KitBody => ({
  ...usualKit,
  name: newName,
  recipe: recipes[0]!.recipe,
});

/** Kits that were begun, and ways to begin others: empty, as a copy, out of a file. */
export function KitsList({ desk, onOpen }: { desk: DeskAnswer; onOpen: (kitId: string) => void }) {
  const queries = useQueryClient();
  const { act, failed } = useAct();
  const kits = useQuery({
    queryKey: ['kits', 'list'],
    queryFn: () => get<KitRow[]>('/api/kits'),
    // What was just worked on is called by its name of now.
    staleTime: 0,
  });
  const [offer, setOffer] = useState<ReadKits | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const refresh = [['kits', 'list']];
  const make = (body: KitBody) => {
    const kitId = crypto.randomUUID();
    return send<KitAnswer>('POST', '/api/kits', { kitId, body });
  };
  const begin = async (body: () => Promise<KitBody> | KitBody) => {
    let kitId = '';
    const isDone = await act(async () => ({ kitId } = await make(await body())), '', { refresh });
    if (isDone) onOpen(kitId);
  };
  /** The same for another product: what goes by the product's code and names is left behind. */
  const copyOf = async (kitId: string): Promise<KitBody> => {
    const { body } = await get<KitAnswer>(`/api/kits/${kitId}`);
    return { ...body, name: `Copy of ${body.name}`.slice(0, 120), skus: [], codes: {}, edits: {} };
  };
  const beginAll = async (bodies: readonly KitBody[]) => {
    setOffer(null);
    await act(
      async () => {
        for (const body of bodies) await make(body);
      },
      `${counted(bodies.length, 'kit')} begun.`,
      { refresh },
    );
  };
  const drop = (kitId: string, name: string) =>
    void act(
      () => send('DELETE', `/api/kits/${kitId}`),
      `“${name}” is gone. What it put on a sheet stays there.`,
      { refresh },
    );
  if (kits.isError) return <Failed error={kits.error} onRetry={() => void queries.invalidateQueries()} />;
  return (
    <ListPage
      head={
        <ListHead
          title="Kits"
          name="kits"
          sentence="A kit makes all campaigns of a product in one go: planned, checked, and sent from the sheet."
          actions={
            <>
              <Button
                size="small"
                title="A CSV with a row a product: sku, recipe, budget; name_code, keywords, start_date, end_date, state"
                onClick={() => file.current?.click()}
              >
                From a file
              </Button>
              <input
                ref={file}
                type="file"
                accept=".csv,text/csv"
                hidden
                aria-label="File of kits"
                onChange={(event) => {
                  const [chosen] = event.target.files ?? [];
                  if (chosen) upload<ReadKits>('/api/kits/file', chosen).then(setOffer, failed);
                  event.target.value = '';
                }}
              />
              <Button variant="contained" size="small" onClick={() => void begin(() => freshBody(desk))}>
                New kit
              </Button>
            </>
          }
        />
      }
    >
      {offer && (
        <Offer offer={offer} onBegin={(bodies) => void beginAll(bodies)} onClose={() => setOffer(null)} />
      )}
      <Collections />
      {kits.data?.length === 0 ? (
        <Empty>
          <Typography>
            No kit was begun yet. A new one starts with a full set of campaigns for a product.
          </Typography>
        </Empty>
      ) : (
        <Box
          role="list"
          aria-label="Kits"
          sx={{
            borderTop: 1,
            borderColor: 'text.primary',
            bgcolor: 'background.paper',
            flex: 1,
            overflowY: 'auto',
          }}
        >
          {kits.data?.map(({ kitId, name, products, onSheet, changedAt }) => (
            <Box
              role="listitem"
              key={kitId}
              sx={{
                display: 'flex',
                gap: 1,
                alignItems: 'center',
                px: 1.5,
                minHeight: 40,
                borderBottom: 1,
                borderColor: 'divider',
                fontSize: sizes.table,
              }}
            >
              <Button size="small" onClick={() => onOpen(kitId)}>
                {name}
              </Button>
              <Box component="span" sx={{ color: 'text.secondary', flex: 1 }}>
                {counted(products, 'product')}
                {onSheet && ', put onto a sheet'}, changed {new Date(changedAt).toLocaleString('en-GB')}
              </Box>
              <Button
                size="small"
                onClick={() => void begin(() => copyOf(kitId))}
                aria-label={`Copy ${name}`}
              >
                Copy
              </Button>
              <Button size="small" onClick={() => drop(kitId, name)} aria-label={`Remove ${name}`}>
                Remove
              </Button>
            </Box>
          ))}
        </Box>
      )}
    </ListPage>
  );
}

interface OfferProps {
  offer: ReadKits;
  onBegin: (bodies: readonly KitBody[]) => void;
  onClose: () => void;
}

/** What a file of kits holds, before any of them is begun. */
function Offer({ offer: { kits, problems }, onBegin, onClose }: OfferProps) {
  return (
    <Dialog open onClose={onClose} aria-labelledby="kits-offer">
      <DialogTitle id="kits-offer">{counted(kits.length, 'kit')} in this file</DialogTitle>
      <DialogContent>
        {kits.map(({ name, budget, keywords }) => (
          <Typography key={name} variant="body2">
            {name}: {money(budget)} a day, {counted(keywords.length, 'keyword')}
          </Typography>
        ))}
        {problems.map(({ row, column, message }) => (
          <Typography key={`${row} ${column}`} variant="body2" color="error" role="alert">
            Row {row}, {column}: {message}
          </Typography>
        ))}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Leave it</Button>
        <Button variant="contained" disabled={kits.length === 0} onClick={() => onBegin(kits)}>
          Begin {counted(kits.length, 'kit')}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
