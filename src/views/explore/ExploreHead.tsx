import { Figure } from '../../ui/parts/Figure.tsx';
import { sizes } from '../../ui/theme.ts';
import { levelNames, type Level } from '../../core/account/levels.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { memo, type RefObject } from 'react';
import type { TableAnswer } from '../../answers/explore.ts';
import type { Condition } from '../../core/explore/conditions.ts';
import type { Window } from '../../core/metrics/days.ts';
import { count, money, percent } from '../../core/metrics/format.ts';
import { setUrl } from '../../ui/hooks/useUrlState.ts';
import { RestsOnSummary } from '../../ui/shell/RestsOnSummary.tsx';
import { Compared } from './Compared.tsx';
import { Conditions } from './Conditions.tsx';
import { waysOf } from './EditPanel.tsx';
import { Slices } from './Slices.tsx';
import { ladder, toLevel, writeState, type ExploreState } from './state.ts';
import type { TableRequest } from './useTable.ts';

interface ExploreHeadProps {
  state: ExploreState;
  request: TableRequest;
  crossed: boolean;
  answer: TableAnswer | undefined;
  markedCount: number;
  currency: string;
  /** The field for the name, which a key moves to. */
  text: RefObject<HTMLInputElement | null>;
  isTrendOpen: boolean;
  onTrend: (open: '1' | null) => void;
  onColumns: (open: boolean) => void;
  onExport: (anchor: HTMLElement) => void;
  onEdit: (editing: { values: null }) => void;
  window: Window;
  /** A comparison of its own; null for the days just before. */
  own: Window | null;
  onCompare: (open: boolean) => void;
}

const setWhere = (where: Condition | null) => writeState({ where });

/** What stands above the table: level, sentence, conditions, and what can be done. It stays still while rows scroll. */
export const ExploreHead = memo(function ExploreHead(props: ExploreHeadProps) {
  const { state, request, crossed, answer, markedCount, currency, isTrendOpen } = props;
  const { level } = state;
  const rows = answer?.count ?? 0;
  const nouns = levelNames[level].many.toLowerCase();
  return (
    <Box sx={{ px: 2.25, pt: 1.5, pb: 0.75, display: 'grid', gap: 0.5 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2, flexWrap: 'wrap' }}>
        <Typography variant="h1">Explore</Typography>
        <Ladder state={state} crossed={crossed} rungs={answer?.rungs} />
      </Box>
      {!crossed && <Sentence answer={answer} nouns={nouns} currency={currency} state={state} />}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, minHeight: 30, flexWrap: 'wrap' }}>
        <Conditions request={request} currency={currency} text={props.text} onChange={setWhere} />
        <Box sx={{ flex: 1 }} />
        <Slices
          body={{
            level,
            columns: state.columns.map(({ ref }) => ref),
            where: state.where,
            sort: state.sort,
            descending: state.descending,
          }}
        />
        {!crossed && (
          <>
            <Compared window={props.window} own={props.own} />
            {markedCount > 0 && (
              <Button size="small" onClick={() => props.onCompare(true)}>
                Compare
              </Button>
            )}
            <Button
              size="small"
              aria-pressed={isTrendOpen}
              onClick={() => props.onTrend(isTrendOpen ? null : '1')}
            >
              Trend
            </Button>
            <Button size="small" onClick={() => props.onColumns(true)}>
              Columns
            </Button>
            <Button size="small" onClick={(event) => props.onExport(event.currentTarget)}>
              Export
            </Button>
            {waysOf(level, currency).length > 0 && (
              <Button
                size="small"
                variant="contained"
                disabled={rows === 0}
                onClick={() => props.onEdit({ values: null })}
              >
                Edit {markedCount > 0 ? `${count(markedCount)} marked` : `all ${count(rows)}`}
              </Button>
            )}
          </>
        )}
      </Box>
    </Box>
  );
});

interface LadderProps {
  state: ExploreState;
  crossed: boolean;
  rungs: TableAnswer['rungs'] | undefined;
}

/** What lies beside a rung hangs on it: a step down, but not on the way to the terms. */
const beside: readonly Level[] = ['budget_groups', 'placements', 'negatives'];

/** The levels from the account down to the terms, with how many there are of each where one stands. */
function Ladder({ state, crossed, rungs }: LadderProps) {
  const to = (level: Level) => {
    setUrl({ view: null }, true);
    toLevel(state, level);
  };
  const rung = (name: string, many: number | null | undefined, chosen: boolean, onClick: () => void) => (
    <ButtonBase
      aria-pressed={chosen}
      aria-label={many == null ? name : `${name}, ${count(many)}`}
      onClick={onClick}
      sx={{
        typography: 'body2',
        display: 'inline',
        px: 0.5,
        pb: 0.25,
        borderBottom: 2,
        borderColor: chosen ? 'primary.main' : 'transparent',
        color: chosen ? 'text.primary' : 'text.secondary',
        fontWeight: chosen ? 700 : 400,
        bgcolor: chosen ? (theme) => theme.palette.roles.wash : 'transparent',
        '& b': { color: 'text.primary', fontVariantNumeric: 'tabular-nums' },
      }}
    >
      {many != null && <b>{count(many)}</b>} {many === 1 ? name : name.toLowerCase()}
    </ButtonBase>
  );
  const nameOf = (level: Level) => {
    const { one, many } = levelNames[level];
    return rungs?.[level] === 1 ? one.toLowerCase() : many;
  };
  return (
    <Box
      role="group"
      aria-label="Levels"
      sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'baseline', rowGap: 0.25, fontSize: sizes.table }}
    >
      {ladder.map((level, i) => (
        <Box component="span" key={level} sx={{ whiteSpace: 'nowrap' }}>
          {i > 0 && (
            <Box component="span" aria-hidden sx={{ color: 'text.secondary', opacity: 0.6, px: 0.25 }}>
              {beside.includes(level) ? '·' : '›'}
            </Box>
          )}
          {rung(
            level === 'account' ? 'Account' : nameOf(level),
            level === 'account' ? null : rungs?.[level],
            !crossed && level === state.level,
            () => to(level),
          )}
        </Box>
      ))}
      <Box component="span" sx={{ ml: 1.5, pl: 1.5, borderLeft: 1, borderColor: 'divider' }}>
        {rung('Cross-tab', null, crossed, () => setUrl({ view: 'cross' }, true))}
      </Box>
    </Box>
  );
}

interface SentenceProps {
  answer: TableAnswer | undefined;
  nouns: string;
  currency: string;
  state: ExploreState;
}

/** Where the table is, and what all its rows come to. */
function Sentence({ answer, nouns, currency, state }: SentenceProps) {
  if (!answer) return <Typography variant="body1">&nbsp;</Typography>;
  const { path, totals } = answer;
  const total = (ref: string) => {
    const at = state.columns.findIndex((column) => column.ref === ref);
    const value = at < 0 ? null : totals[at];
    return typeof value === 'number' ? value : null;
  };
  const sales = total('sales');
  const acos = total('acos');
  const gain = total('gain');
  return (
    <Typography variant="body1" data-testid="explore-sentence" sx={{ fontSize: sizes.sentence }}>
      {path.length > 0 && (
        <Box component="nav" aria-label="Path" sx={{ display: 'inline' }}>
          <Link component="button" onClick={() => writeState({ within: null }, true)}>
            Account
          </Link>
          {path.map((step, i) => (
            <span key={step.id}>
              {' / '}
              {i === path.length - 1 ? (
                <b>{step.name}</b>
              ) : (
                <Link component="button" onClick={() => writeState({ within: step }, true)}>
                  {step.name}
                </Link>
              )}
            </span>
          ))}
          {': '}
        </Box>
      )}
      <b>
        {count(answer.count)} {nouns}
      </b>{' '}
      spent{' '}
      <Figure name="spend" label="Spend">
        <b>
          {currency} {money(answer.spend)}
        </b>
      </Figure>
      {sales !== null && (
        <>
          {' and sold '}
          <Figure name="sales" label="Sales">
            {money(sales)}
          </Figure>
        </>
      )}
      {acos !== null && (
        <>
          {': '}
          <Figure name="acos" label="ACOS">
            ACOS {percent(acos)}
          </Figure>
        </>
      )}
      {gain !== null && (
        <>
          {', '}
          <Figure name="gain" label="Gain against goal">
            {money(Math.abs(gain))} {gain < 0 ? 'over goal' : 'better than goal'}
          </Figure>
        </>
      )}
      .
      <RestsOnSummary
        kind={
          state.level === 'terms'
            ? 'terms-daily'
            : state.level === 'placements'
              ? 'placements-daily'
              : 'targets-daily'
        }
        window={answer.windows.window}
      />
    </Typography>
  );
}
