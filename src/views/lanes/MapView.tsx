import type { LaneMapAnswer } from '../../answers/lanes.ts';
import { useSku } from './ProductChoice.tsx';
import { Filter } from '../../ui/list/filters.tsx';
import { ListHead, ListPage, Failed, Waiting } from '../../ui/list/ListPage.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useCallback, useState, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { sum } from 'd3';
import { count, money } from '../../core/metrics/format.ts';
import { newLane, type Lane, type LaneAdGroup, type LaneKind } from '../../core/lanes/lanes.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Panel } from '../../ui/parts/Panel.tsx';
import { Key, type KeyHelp } from '../../ui/shell/Keys.tsx';
import { LaneFiles } from './LaneFiles.tsx';
import { LaneMap, stateOf } from './LaneMap.tsx';
import { LanePanel, panelKey } from './LanePanel.tsx';
import { nameOf } from './layout.ts';
import type { PartProps } from './parts.tsx';
import { laneKey, plainLane, useLanes } from './useLanes.ts';

export const mapHelp: KeyHelp[] = [
  { keys: ['j', 'k'], does: 'next, previous lane' },
  { keys: ['Delete'], does: 'remove the lane in focus' },
  { keys: ['Esc'], does: 'close the lane' },
];

/** The width of what it is put on, followed as it changes. */
function useWidth(): [(element: HTMLElement | null) => (() => void) | undefined, number] {
  const [width, setWidth] = useState(0);
  const ref = useCallback((element: HTMLElement | null) => {
    if (!element) return undefined;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, width];
}

/** A lane to begin with, between two ad groups: for items where only items live. */
function laneBetween(answer: LaneMapAnswer, source: string, destination: string): Lane {
  const from = answer.adGroups.find(({ id }) => id === source);
  const usual = { adGroupId: source, automatic: from?.automatic ?? false } as LaneAdGroup;
  const known = new Set(answer.lanes.filter((lane) => lane.source === source).map(({ kind }) => kind));
  const proposed = [...answer.proposed, ...answer.lanes].find(
    (lane) => lane.destination === destination,
  )?.kind;
  const kind: LaneKind = proposed ?? (known.has('keyword') && !known.has('item') ? 'item' : 'keyword');
  return newLane(usual, destination, kind);
}

/** Where research sends its winners, as a map to look at and to change. */
export function MapView({ window, currency, tabs }: PartProps) {
  const { map, save } = useLanes(window);
  const sku = useSku();
  const [chosen, setChosen] = useUrlState('lane');
  const [draft, setDraft] = useState<Lane | null>(null);
  const [measure, width] = useWidth();
  const answer = map.data;
  const known = answer?.lanes.find((lane) => laneKey(lane) === chosen) ?? null;
  const choose = (key: string | null) => {
    setDraft(null);
    setChosen(key);
  };
  const change = async (lanes: Lane[], label: string) => {
    const problem = await save(lanes, label);
    if (problem === null) setDraft(null);
    return problem;
  };
  const put = async (lane: Lane): Promise<string | null> => {
    if (!answer) return null;
    const others = answer.lanes
      .filter((one) => one !== known && laneKey(one) !== laneKey(lane))
      .map(plainLane);
    if (!known && others.length < answer.lanes.length)
      return 'This source has a lane of that kind already. Change that one.';
    const problem = await change([...others, lane], known ? 'lane changed' : 'lane made');
    if (problem === null) setChosen(laneKey(lane));
    return problem;
  };
  const remove = async () => {
    if (!answer || !known) return;
    setChosen(null);
    await change(answer.lanes.filter((one) => one !== known).map(plainLane), 'lane removed');
  };
  const move = (by: number) => {
    const lanes = answer?.lanes ?? [];
    if (lanes.length === 0) return;
    const at = lanes.findIndex((lane) => laneKey(lane) === chosen);
    const next = at < 0 ? 0 : Math.max(0, Math.min(lanes.length - 1, at + by));
    choose(laneKey(lanes[next]!));
  };
  useHotkeys('j, down', (event) => (event.preventDefault(), move(1)), [answer, chosen]);
  useHotkeys('k, up', (event) => (event.preventDefault(), move(-1)), [answer, chosen]);
  useHotkeys('delete', () => void remove(), [answer, known]);
  useHotkeys('esc', () => choose(null));
  if (map.isError && !answer) return <Failed error={map.error} onRetry={() => void map.refetch()} />;
  if (!answer) return <Waiting>Following every term to where it was served.</Waiting>;
  const lane = draft ?? known;
  const products = [
    ...new Set(answer.adGroups.filter(({ research }) => research).map((one) => one.sku ?? '')),
  ];
  const start: Lane = { ...newLane({ adGroupId: '', automatic: false } as LaneAdGroup, '', 'keyword') };
  return (
    <ListPage
      head={
        <ListHead
          title="Lanes"
          tabs={tabs}
          name="lanes"
          sentence={<MapSentence answer={answer} />}
          filters={
            <>
              <Filter
                param="sku"
                label="Product"
                none="all products"
                options={products
                  .filter((one) => one !== '')
                  .map((one) => [one, nameOf(one, answer.products)])}
              />
              <Button size="small" onClick={() => (setChosen(null), setDraft(start))}>
                New lane
              </Button>
              <Box sx={{ flex: 1 }} />
              <LaneFiles answer={answer} onSave={change} />
            </>
          }
        />
      }
      panel={
        lane ? (
          <LanePanel
            key={`${panelKey(lane)} ${map.dataUpdatedAt}`}
            answer={answer}
            lane={draft ?? plainLane(known!)}
            known={draft ? null : known}
            currency={currency}
            onSave={put}
            onRemove={() => void remove()}
            onClose={() => choose(null)}
          />
        ) : (
          <Legend answer={answer} onChoose={choose} />
        )
      }
    >
      {!answer.saved && (
        <Box
          sx={{
            px: 2.25,
            py: 0.75,
            bgcolor: (theme) => theme.palette.roles.wash,
            display: 'flex',
            gap: 2,
            alignItems: 'center',
          }}
        >
          <Typography variant="body2">
            These {count(answer.lanes.length)} lanes are read from your products and names, and work already.
            Keep them, and they stay as they are whatever is renamed.
          </Typography>
          <Button
            size="small"
            variant="contained"
            sx={{ flexShrink: 0, ml: 'auto' }}
            onClick={() =>
              void change(answer.lanes.map(plainLane), `${count(answer.lanes.length)} lanes kept`)
            }
          >
            Keep these lanes
          </Button>
        </Box>
      )}
      <Box
        sx={{
          flex: 1,
          minHeight: 0,
          overflowY: 'auto',
          borderTop: 1,
          borderColor: 'text.primary',
          px: 2.25,
          py: 1,
        }}
      >
        <Box ref={measure} sx={{ minWidth: 0 }}>
          {width > 0 && (
            <LaneMap
              answer={answer}
              sku={sku ?? ''}
              width={width}
              chosen={chosen}
              onChoose={choose}
              onDraw={(source, destination) => {
                setChosen(null);
                setDraft(laneBetween(answer, source, destination));
              }}
            />
          )}
        </Box>
      </Box>
    </ListPage>
  );
}

const plural = (n: number, one: string): ReactNode => (
  <b>
    {count(n)} {one}
    {n === 1 ? '' : 's'}
  </b>
);

const unserved = ({ adGroups, lanes }: LaneMapAnswer) => {
  const served = new Set(lanes.map(({ source }) => source));
  return adGroups.filter(({ id, research, enabled }) => research && enabled && !served.has(id));
};

function MapSentence({ answer }: { answer: LaneMapAnswer }) {
  const leaking = answer.lanes.filter((lane) => stateOf(lane) === 'leaking');
  const lonely = unserved(answer);
  return (
    <>
      {plural(answer.lanes.length, 'lane')} carried {plural(answer.orders, 'order')} in this window;{' '}
      {plural(leaking.length, 'lane')} let {money(sum(leaking, ({ flow }) => flow.leakSpend))} leak.{' '}
      {lonely.length === 0
        ? 'All research leads somewhere.'
        : `${count(lonely.length)} research ad groups lead nowhere: ${count(sum(lonely, ({ sums }) => sums.orders))} orders stay in them.`}
    </>
  );
}

/** What stands beside the map while no lane is chosen: the worst leaks, research without a lane, what colours say. */
function Legend({ answer, onChoose }: { answer: LaneMapAnswer; onChoose: (key: string) => void }) {
  const name = (id: string) => answer.adGroups.find((one) => one.id === id)?.name ?? id;
  const leaking = answer.lanes
    .filter((lane) => lane.flow.leaks > 0)
    .sort((a, b) => b.flow.leakSpend - a.flow.leakSpend)
    .slice(0, 8);
  return (
    <Panel label="About the map">
      <Typography variant="h2">What leaks most</Typography>
      {leaking.length === 0 && (
        <Typography color="text.secondary">Nothing: every lane is isolated.</Typography>
      )}
      {leaking.map((lane) => (
        <Box key={laneKey(lane)} sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
          <Button
            size="small"
            sx={{
              p: 0,
              minWidth: 0,
              minHeight: 26,
              textAlign: 'left',
              justifyContent: 'flex-start',
              fontWeight: 400,
              color: 'text.primary',
            }}
            onClick={() => onChoose(laneKey(lane))}
          >
            {name(lane.source)} → {name(lane.destination)}
          </Button>
          <Box sx={{ flex: 1 }} />
          <span>{money(lane.flow.leakSpend)}</span>
        </Box>
      ))}
      <Typography variant="body2" color="text.secondary" sx={{ mt: 2 }}>
        A lane is as wide as the orders that went down it. Spruce: isolated. Clay with gaps in it: terms that
        are served there still cost money in the source. Dotted: it can't work as the account stands. Research
        in a dashed frame leads nowhere.
      </Typography>
      <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
        Drag from an ad group to where its winners should go. <Key>j</Key> <Key>k</Key> go through the lanes.
      </Typography>
    </Panel>
  );
}
