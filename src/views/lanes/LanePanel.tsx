import type { LaneMapAnswer, MapLane } from '../../answers/lanes.ts';
import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useState, type FormEvent, type ReactNode } from 'react';
import { at } from '../../ui/address.ts';
import { counted, money } from '../../core/metrics/format.ts';
import { micros, units } from '../../core/metrics/money.ts';
import { mostLaneDays, type Lane } from '../../core/lanes/lanes.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { laneKey } from './useLanes.ts';

interface LanePanelProps {
  answer: LaneMapAnswer;
  /** The lane to change, or one to be made. */
  lane: Lane;
  known: MapLane | null;
  currency: string;
  onSave: (lane: Lane) => Promise<string | null>;
  onRemove: () => void;
  onClose: () => void;
}

const Row = ({ label, children }: { label: string; children: ReactNode }) => (
  <Box
    component="label"
    sx={{ display: 'grid', gridTemplateColumns: '96px 1fr', alignItems: 'center', minHeight: 32, gap: 1 }}
  >
    <span>{label}</span>
    <Box component="span" sx={{ whiteSpace: 'nowrap' }}>
      {children}
    </Box>
  </Box>
);

/** What went down a lane, as a sentence with its numbers. */
export function flowSentence({ flow, kind }: MapLane): string {
  const went =
    flow.orders > 0
      ? `${counted(flow.orders, 'order')} from ${counted(flow.terms, kind === 'item' ? 'item' : 'term')} that came down here, ${money(flow.spend)} spent.`
      : 'Nothing that came down here has sold in this window.';
  return flow.leaks === 0
    ? `${went} Isolated: nothing that is served there was paid for in the source.`
    : `${went} Leaking: ${counted(flow.leaks, 'term')} served there still cost ${money(flow.leakSpend)} in the source.`;
}

/** Conditions of one lane: what goes down it, as what, at which bid, and where it is blocked from then on. */
export function LanePanel({ answer, lane, known, currency, onSave, onRemove, onClose }: LanePanelProps) {
  const [draft, setDraft] = useState(lane);
  const [bid, setBid] = useState(lane.fixedBid === null ? '' : units(lane.fixedBid).toFixed(2));
  const [problem, setProblem] = useState<string | null>(known?.problem?.message ?? null);
  const set = (values: Partial<Lane>) => setDraft((old) => ({ ...old, ...values }));
  const research = answer.adGroups.filter((one) => one.research && !one.archived);
  const source = answer.adGroups.find(({ id }) => id === draft.source);
  const destinations = answer.adGroups.filter(
    (one) =>
      one.id === draft.destination ||
      (one.id !== draft.source && !one.automatic && !one.archived && one.sku === (source?.sku ?? one.sku)),
  );
  const number = (
    name: 'leastOrders' | 'leastClicks' | 'days',
    label: string,
    unit: string,
    most: number,
  ) => (
    <Row label={label}>
      <Field
        type="number"
        aria-label={label}
        min={name === 'days' ? 1 : 0}
        max={most}
        value={draft[name]}
        onChange={(event) => set({ [name]: Number(event.target.value) })}
        style={{ width: 72 }}
      />{' '}
      {unit}
    </Row>
  );
  const save = async (event: FormEvent) => {
    event.preventDefault();
    const value = Number(bid.replace(',', '.'));
    if (draft.firstBid === 'fixed' && !(value > 0)) return setProblem('A fixed first bid needs its amount.');
    const fixedBid = draft.firstBid === 'fixed' ? micros(Math.round(value * 100) / 100) : null;
    setProblem(await onSave({ ...draft, fixedBid }));
  };
  const option = (value: string, text: string) => (
    <option key={value} value={value}>
      {text}
    </option>
  );
  const adGroupOption = ({ id, name, campaign }: (typeof answer.adGroups)[number]) =>
    option(id, name === campaign ? name : `${campaign}, ${name}`);
  return (
    <Panel label="Lane">
      <Box
        component="form"
        onSubmit={(event) => void save(event)}
        onKeyDown={(event) => event.stopPropagation()}
      >
        <Typography variant="h2">{known ? 'A lane' : 'A new lane'}</Typography>
        {known && (
          <Typography
            data-testid="lane-sentence"
            sx={{ mt: 0.75, fontSize: sizes.sentence, lineHeight: 1.45 }}
          >
            {flowSentence(known)}
          </Typography>
        )}
        <Part title="From and to">
          <Row label="Research">
            <Choice
              aria-label="From"
              value={draft.source}
              onChange={(event) => set({ source: event.target.value })}
              sx={{ width: 184 }}
            >
              {draft.source === '' && option('', 'choose')}
              {research.map(adGroupOption)}
            </Choice>
          </Row>
          <Row label="leads to">
            <Choice
              aria-label="To"
              value={draft.destination}
              onChange={(event) => set({ destination: event.target.value })}
              sx={{ width: 184 }}
            >
              {draft.destination === '' && option('', 'choose')}
              {destinations.map(adGroupOption)}
            </Choice>
          </Row>
          <Row label="with">
            <Choice
              aria-label="Kind"
              value={draft.kind}
              onChange={(event) =>
                set(
                  event.target.value === 'item'
                    ? { kind: 'item', matchType: null }
                    : { kind: 'keyword', matchType: 'exact' },
                )
              }
            >
              {option('keyword', 'keywords')}
              {option('item', 'item codes')}
            </Choice>{' '}
            {draft.kind === 'keyword' && (
              <Choice
                aria-label="Match type"
                value={draft.matchType ?? 'exact'}
                onChange={(event) => set({ matchType: event.target.value as Lane['matchType'] })}
              >
                {option('exact', 'exact')}
                {option('phrase', 'phrase')}
                {option('broad', 'broad')}
              </Choice>
            )}
          </Row>
        </Part>
        <Part title="What goes down">
          {number('leastOrders', 'At least', 'orders', 10_000)}
          {number('leastClicks', 'and', 'clicks', 100_000)}
          {number('days', 'in the last', 'days', mostLaneDays)}
          <Row label="ACOS at most">
            <Field
              type="number"
              aria-label="Share of the goal"
              min={1}
              max={1000}
              value={Math.round(draft.goalShare * 100)}
              onChange={(event) => set({ goalShare: Number(event.target.value) / 100 })}
              style={{ width: 60 }}
            />{' '}
            % of goal
          </Row>
        </Part>
        <Part title="How it begins there">
          <Row label="First bid">
            <Choice
              aria-label="First bid"
              value={draft.firstBid}
              onChange={(event) => set({ firstBid: event.target.value as Lane['firstBid'] })}
              sx={{ width: 184 }}
            >
              {option('evidence', 'revenue per click × goal')}
              {option('source_cpc', 'CPC in the source')}
              {option('fixed', 'a fixed bid')}
            </Choice>
          </Row>
          {draft.firstBid === 'fixed' && (
            <Row label="">
              <Field
                aria-label="Fixed bid"
                inputMode="decimal"
                value={bid}
                onChange={(event) => setBid(event.target.value)}
                style={{ width: 72 }}
              />{' '}
              {currency}
            </Row>
          )}
          <Row label="Then blocked in">
            <Choice
              aria-label="Blocked in"
              value={draft.isolate}
              onChange={(event) => set({ isolate: event.target.value as Lane['isolate'] })}
              sx={{ width: 184 }}
            >
              {option('product', 'all research of the product')}
              {option('source', 'the source only')}
              {option('none', 'nothing')}
            </Choice>
          </Row>
        </Part>
        {problem && (
          <Typography role="alert" color="error" variant="body2" sx={{ mt: 1 }}>
            {problem}
          </Typography>
        )}
        <Box sx={{ mt: 1.5, display: 'flex', gap: 1 }}>
          <Button
            type="submit"
            variant="contained"
            disabled={draft.source === '' || draft.destination === ''}
          >
            {known ? 'Save lane' : 'Make lane'}
          </Button>
          {known && <Button onClick={onRemove}>Remove</Button>}
          <Button onClick={onClose}>Close</Button>
        </Box>
      </Box>
      {known && (
        <Part title="Look closer">
          <Link href={at(`/explore?level=terms&in=ad_groups:${known.source}`)}>Terms of the source</Link>
        </Part>
      )}
    </Panel>
  );
}

/** A panel begins anew with every lane. */
export const panelKey = (lane: Lane): string => `${laneKey(lane)} ${lane.destination}`;
