import { AddressNote } from '../../ui/shell/AddressNote.tsx';
import { unknownChoices } from '../../ui/list/filters.tsx';
import { useProducts } from './ProductChoice.tsx';
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useState, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { useSeason, useWindow } from '../../ui/shell/data.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { Shell } from '../../ui/shell/Shell.tsx';
import { conflictsHelp, ConflictsView } from './ConflictsView.tsx';
import { coverageHelp, CoverageView } from './CoverageView.tsx';
import { mapHelp, MapView } from './MapView.tsx';
import { negativesHelp, NegativesView } from './NegativesView.tsx';
import { newTermsHelp, NewTermsView } from './NewTermsView.tsx';
import { Waiting } from '../../ui/list/ListPage.tsx';
import type { PartProps } from './parts.tsx';
import { wordsHelp, WordsView } from './WordsView.tsx';

interface LanesPart {
  id: string;
  name: string;
  View: (props: PartProps) => ReactNode;
  help: KeyHelp[];
}

const parts: LanesPart[] = [
  { id: 'map', name: 'Map', View: MapView, help: mapHelp },
  { id: 'words', name: 'Words', View: WordsView, help: wordsHelp },
  { id: 'negatives', name: 'Negatives', View: NegativesView, help: negativesHelp },
  { id: 'conflicts', name: 'Conflicts', View: ConflictsView, help: conflictsHelp },
  { id: 'coverage', name: 'Coverage', View: CoverageView, help: coverageHelp },
  { id: 'new', name: 'New terms', View: NewTermsView, help: newTermsHelp },
];

const turning: KeyHelp[] = [{ keys: ['[', ']'], does: 'previous, next part of Lanes' }];

export function LanesView() {
  const [view] = useState(() => new URLSearchParams(globalThis.location.search).get('view'));
  const [help, setHelp] = useState(() => helpOf(view));
  return (
    <Shell help={help}>
      <Lanes onPart={(id) => setHelp(helpOf(id))} />
    </Shell>
  );
}

const partOf = (id: string | null): LanesPart => parts.find((part) => part.id === id) ?? parts[0]!;
const helpOf = (id: string | null): KeyHelp[] => [...partOf(id).help, ...turning];

function Lanes({ onPart }: { onPart: (id: string) => void }) {
  const [view, setView] = useUrlState('view', true);
  const window = useWindow();
  const season = useSeason();
  const part = partOf(view);
  const products = useProducts()?.map(({ sku }) => sku) ?? null;
  useUrlState('sku');
  const choose = (id: string) => {
    setView(id === 'map' ? null : id);
    onPart(id);
  };
  const turn = (by: number) => {
    const next = parts[(parts.indexOf(part) + by + parts.length) % parts.length]!;
    choose(next.id);
  };
  useHotkeys('[', () => turn(-1), { useKey: true }, [part]);
  useHotkeys(']', () => turn(1), { useKey: true }, [part]);
  if (season.data && !window) {
    return (
      <Box sx={{ p: 4, maxWidth: 560 }}>
        <Typography variant="h1">Lanes</Typography>
        <Typography sx={{ my: 2 }}>
          There is nothing to send anywhere yet. Fetch from the marketplace or load a file under{' '}
          <Link href={at('/data')}>Data</Link>.
        </Typography>
      </Box>
    );
  }
  if (!window) return <Waiting>Adding up the account.</Waiting>;
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column' }}>
      <AddressNote
        problems={unknownChoices(globalThis.location.search, {
          view: parts.map(({ id }) => id),
          sku: products,
        })}
      />
      <Box sx={{ flex: 1, minHeight: 0 }}>
        <part.View
          key={part.id}
          window={window}
          currency={season.data?.account.currency ?? ''}
          tabs={<Tabs label="Parts" tabs={parts} chosen={part.id} onChoose={choose} />}
        />
      </Box>
    </Box>
  );
}
