import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { MovedAnswer } from '../../answers/today.ts';
import type { Window } from '../../core/metrics/days.ts';
import { count, money, percent } from '../../core/metrics/format.ts';
import { at } from '../../ui/address.ts';
import { get } from '../../ui/api.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { sizes } from '../../ui/theme.ts';
import { partSaid, partsOf, partsSaid, partText } from '../../core/movers/waterfall.ts';
import { Waterfall } from './Waterfall.tsx';

export const movedFigures = { sales: 'Ad sales', spend: 'Spend', acos: 'ACOS' };
type FigureId = keyof typeof movedFigures;
export const movedIds = Object.keys(movedFigures) as FigureId[];

/** What a member opens into. */
const inside = { product: 'campaign', campaign: 'target', target: null } as const;

interface Place {
  by: MovedAnswer['by'];
  sku?: string;
  campaign?: string;
}

const pathOf = (figure: FigureId, { from, to }: Window, { by, sku, campaign }: Place): string => {
  const asked = new URLSearchParams({ figure, by, from, to });
  if (sku !== undefined) asked.set('sku', sku);
  if (campaign !== undefined) asked.set('campaign', campaign);
  return `/api/today/moved?${asked.toString()}`;
};

const useMoved = (figure: FigureId, window: Window, place: Place) =>
  useQuery({
    queryKey: ['moved', figure, window.from, window.to, place],
    queryFn: () => get<MovedAnswer>(pathOf(figure, window, place)),
  });

/** What moved a figure from the period before to this one: the parts as steps, and the members that moved it most. */
export function Movers({ window }: { window: Window }) {
  const [named, setNamed] = useUrlState('moved');
  const figure = movedIds.find((id) => id === named) ?? 'sales';
  const [by, setBy] = useState<'product' | 'campaign'>('product');
  const moved = useMoved(figure, window, { by });
  const answer = moved.data;
  const change = answer?.before == null || answer.after === null ? null : answer.after - answer.before;
  return (
    <Box component="section" aria-label="What moved">
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2, flexWrap: 'wrap' }}>
        <Typography variant="h2">What moved</Typography>
        <Tabs
          label="Figure"
          tabs={movedIds.map((id) => ({ id, name: movedFigures[id] }))}
          chosen={figure}
          onChoose={(id) => setNamed(id === 'sales' ? null : id)}
        />
        <Box sx={{ ml: 'auto' }}>
          <Tabs
            label="By"
            tabs={[
              { id: 'product', name: 'by product' },
              { id: 'campaign', name: 'by campaign' },
            ]}
            chosen={by}
            onChoose={setBy}
          />
        </Box>
      </Box>
      {moved.isError && <Typography color="error">{moved.error.message}</Typography>}
      {!answer ? (
        <Typography color="text.secondary" sx={{ py: 4, minHeight: 180 }}>
          {moved.isError ? '' : 'Splitting the change.'}
        </Typography>
      ) : change === null ? (
        <Typography sx={{ py: 2 }}>Nothing was sold in one of the two periods: its ACOS is none.</Typography>
      ) : (
        <>
          <Typography data-testid="moved-sentence" sx={{ fontSize: sizes.sentence, mt: 0.5 }}>
            {movedFigures[figure]} {change === 0 ? 'stayed' : change > 0 ? 'rose' : 'fell'} by{' '}
            <b>
              {figure === 'acos' ? `${Math.abs(change * 100).toFixed(2)} points` : money(Math.abs(change))}
            </b>
            {partsOf(answer.parts).length > 0 && ': '}
            {partsSaid(figure, answer.parts)}.
          </Typography>
          <Waterfall moved={answer} />
          <Members figure={figure} window={window} answer={answer} place={{ by }} depth={0} />
        </>
      )}
    </Box>
  );
}

interface MembersProps {
  figure: FigureId;
  window: Window;
  answer: MovedAnswer;
  place: Place;
  depth: number;
}

/** So many members are shown at once. */
const shown = [6, 8, 10];

/** Members by how far they moved it, each with its parts; one opens into what it is made of. */
function Members({ figure, window, answer, place, depth }: MembersProps) {
  const [open, setOpen] = useState<string | null>(null);
  const next = inside[place.by];
  const members = answer.members.filter(({ change }) => change !== 0).slice(0, shown[depth]);
  return (
    <Box
      component="ul"
      aria-label={depth === 0 ? 'Members that moved it most' : 'What it is made of'}
      sx={{ listStyle: 'none', m: 0, p: 0, pl: depth * 2, fontSize: sizes.table }}
    >
      {members.map(({ key, name, below, change, parts }) => (
        <li key={key}>
          <ButtonBase
            disabled={next === null}
            aria-expanded={next === null ? undefined : open === key}
            onClick={() => setOpen(open === key ? null : key)}
            sx={{
              width: '100%',
              display: 'grid',
              gridTemplateColumns: 'minmax(0, 1.4fr) 110px minmax(0, 2fr)',
              columnGap: 1.5,
              alignItems: 'baseline',
              textAlign: 'left',
              minHeight: 26,
              borderTop: 1,
              borderColor: 'divider',
              fontSize: sizes.table,
              fontFamily: 'inherit',
            }}
          >
            <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
              {next !== null && <span aria-hidden="true">{open === key ? '− ' : '+ '}</span>}
              <b>{name}</b> <span className="soft">{below}</span>
            </Box>
            <Box component="b" sx={{ textAlign: 'right', fontVariantNumeric: 'tabular-nums' }}>
              {partText(figure, change)}
            </Box>
            <Box
              component="span"
              sx={{
                color: 'text.secondary',
                overflow: 'hidden',
                textOverflow: 'ellipsis',
                whiteSpace: 'nowrap',
              }}
            >
              {partsOf(parts)
                .sort(([, a], [, b]) => Math.abs(b) - Math.abs(a))
                .map(([part, value]) => `${partSaid(part)} ${partText(figure, value).replace(' points', '')}`)
                .join(', ')}
            </Box>
          </ButtonBase>
          {open === key && next !== null && (
            <Inside
              figure={figure}
              window={window}
              depth={depth + 1}
              place={{
                by: next,
                ...(place.by === 'product' ? { sku: key } : { campaign: key }),
              }}
            />
          )}
        </li>
      ))}
      {answer.count > members.length && (
        <Box component="li" sx={{ borderTop: 1, borderColor: 'divider', color: 'text.secondary', py: 0.5 }}>
          and {count(answer.count - members.length)} more;{' '}
          <Link href={at(`/explore?from=${window.from}&to=${window.to}`)}>all of them in Explore</Link>
        </Box>
      )}
    </Box>
  );
}

function Inside({ figure, window, place, depth }: Omit<MembersProps, 'answer'>) {
  const moved = useMoved(figure, window, place);
  if (!moved.data)
    return (
      <Typography variant="body2" color={moved.isError ? 'error' : 'text.secondary'} sx={{ pl: depth * 2 }}>
        {moved.isError ? moved.error.message : 'Opening.'}
      </Typography>
    );
  if (moved.data.members.length === 0)
    return (
      <Typography variant="body2" color="text.secondary" sx={{ pl: depth * 2 }}>
        {figure === 'acos'
          ? `Its ACOS is none in one of the periods (${percent(null)}).`
          : 'Nothing in it moved.'}
      </Typography>
    );
  return <Members figure={figure} window={window} answer={moved.data} place={place} depth={depth} />;
}
