import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import type { GoalsAnswer } from '../../answers/goals.ts';
import type { GuardSettings, Objective } from '../../core/goals/goals.ts';
import { guardsOf } from '../../core/goals/goals.ts';
import type { Guards } from '../../core/bids/guards.ts';
import { percent, significant } from '../../core/metrics/format.ts';
import { longDay } from '../../ui/days.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { CostsPart } from './CostsPart.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { digitsOf } from './fields.tsx';
import type { SaveGoal } from './GoalsList.tsx';
import { LadderEditor } from './LadderEditor.tsx';
import { ofScope, type ScopeRow } from './rows.ts';
import { WhatIfPart } from './WhatIfPart.tsx';

interface GoalPanelProps {
  row: ScopeRow;
  answer: GoalsAnswer;
  save: SaveGoal;
  onRemove: () => void;
}

const objectiveNames: Record<Objective, string> = {
  acos: 'most sales at a target ACOS',
  margin: 'a margin after ads',
  profit: 'most profit',
};

/** Everything of one scope: what it aims at and what that would change, how bids are found, what holds them back, costs. */
export function GoalPanel({ row, answer, save, onRemove }: GoalPanelProps) {
  const { goal, rules, title } = row;
  const usesLadder = rules.method === 'bands' || rules.method === 'rpc';
  const hasOwn = row.scope !== 'account' && goal !== null;
  return (
    <Panel label={`Goal of ${title}`} width={372}>
      <Typography component="h2" variant="h2" sx={{ overflowWrap: 'anywhere' }}>
        {title}
      </Typography>
      <Typography variant="caption" color="text.secondary" component="div">
        {row.detail}
      </Typography>
      <Part title="It aims at" explains="target_acos">
        <Aim row={row} answer={answer} save={save} />
      </Part>
      {rules.objective !== 'profit' && <WhatIfPart row={row} save={save} />}
      {usesLadder && (
        <Part title="Bands: a row gets the step of the one it is in" explains="bands">
          <LadderEditor
            ladder={rules.ladder}
            targetAcos={rules.targetAcos}
            isOwn={goal?.ladder != null}
            onSave={(ladder) => void save(row, { ladder })}
          />
        </Part>
      )}
      <Part title="Guards" explains="guards">
        <GuardFields row={row} answer={answer} save={save} />
      </Part>
      {row.product && row.scope === 'product' && (
        <CostsPart product={row.product} targetAcos={rules.targetAcos} />
      )}
      <Part title="Share of revenue per click a bid may be (θ)" explains="theta">
        <Theta row={row} answer={answer} save={save} />
      </Part>
      {hasOwn && (
        <Button
          size="small"
          sx={{ mt: 1.5 }}
          aria-label={`Remove the override of ${title}`}
          onClick={onRemove}
        >
          Remove what is its own
        </Button>
      )}
    </Panel>
  );
}

function Aim({ row, answer, save }: Omit<GoalPanelProps, 'onRemove'>) {
  const { goal, rules, title, scope } = row;
  const own = goal?.objective ?? null;
  const choose = (objective: Objective | null) => {
    if (objective === 'acos') return void save(row, { objective, targetAcos: rules.targetAcos });
    if (objective !== 'margin') return void save(row, { objective });
    const margin = row.product?.margin;
    const left = margin == null ? 0.1 : Math.max(0, Math.round((margin - rules.targetAcos) * 1000) / 1000);
    void save(row, { objective, targetMargin: left });
  };
  return (
    <Box sx={{ display: 'grid', gap: 0.5, mt: 0.5 }}>
      <Choice
        aria-label={`Objective of ${title}`}
        value={own ?? ''}
        onChange={({ target }) => choose((target.value || null) as Objective | null)}
        sx={{ maxWidth: 'none' }}
      >
        {scope !== 'account' && (
          <option value="">
            as {ofScope(rules, answer).replace(/^of /, '')}: {objectiveNames[rules.objective]}
          </option>
        )}
        {Object.entries(objectiveNames).map(([id, name]) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </Choice>
      {own === 'margin' && (
        <span>
          <NumberField
            label={`Target margin of ${title}, per cent`}
            value={(goal!.targetMargin ?? 0) * 100}
            digits={digitsOf(goal!.targetMargin ?? 0)}
            suffix="% of the price are left after ads"
            least={0}
            onCommit={(value) => value !== null && void save(row, { targetMargin: value / 100 })}
          />
        </span>
      )}
      <span>
        {rules.objective === 'profit'
          ? `The last click may cost what it earns: ${percent(rules.targetAcos)} of what it sells.`
          : `An ACOS of ${percent(rules.targetAcos)}${rules.objective === 'margin' ? `, which leaves ${percent(rules.targetMargin)}` : ''}.`}
        {own !== null && own !== 'acos' && rules.objective === 'acos' && scope !== 'product'
          ? ' Products whose costs are not known go by it.'
          : ''}
      </span>
    </Box>
  );
}

const guardFields: {
  name: keyof GuardSettings;
  label: string;
  /** As it is typed, out of what is kept, and back. */
  show: (guards: Guards) => number;
  read: (typed: number) => number;
  digits: number;
  suffix: string;
}[] = [
  {
    name: 'up',
    label: 'Largest step up',
    show: ({ up }) => up,
    read: (x) => x,
    digits: 2,
    suffix: '× the bid',
  },
  {
    name: 'down',
    label: 'Largest step down',
    show: ({ down }) => 1 / down,
    read: (x) => 1 / x,
    digits: 2,
    suffix: 'times less',
  },
  {
    name: 'overHighestCpc',
    label: 'Click at most',
    show: ({ overHighestCpc }) => overHighestCpc,
    read: (x) => x,
    digits: 1,
    suffix: '× the highest CPC',
  },
  {
    name: 'least',
    label: 'Dropped below',
    show: ({ least }) => least * 100,
    read: (x) => x / 100,
    digits: 0,
    suffix: '% change',
  },
  {
    name: 'cooldownDays',
    label: 'Cooldown',
    show: ({ cooldownDays }) => cooldownDays,
    read: (x) => x,
    digits: 0,
    suffix: 'days',
  },
];

function GuardFields({ row, answer, save }: Omit<GoalPanelProps, 'onRemove'>) {
  const { goal, rules, title } = row;
  const effective = guardsOf(rules);
  const own = goal?.guards ?? null;
  const put = (name: keyof GuardSettings, value: number | null) => {
    const { [name]: _, ...others } = own ?? {};
    const next: GuardSettings = value === null ? others : { ...others, [name]: value };
    void save(row, { guards: Object.keys(next).length > 0 ? next : null });
  };
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '116px 1fr', rowGap: 0.25, mt: 0.5 }}>
      {guardFields.map(({ name, label, show, read, digits, suffix }) => (
        <Box key={name} sx={{ display: 'contents' }}>
          <span>{label}</span>
          <NumberField
            label={`${label} of ${title}`}
            value={own?.[name] === undefined ? null : show({ ...effective, ...own })}
            placeholder={show(effective).toFixed(digits)}
            digits={digits}
            suffix={suffix}
            least={0}
            onCommit={(value) => put(name, value === null ? null : read(value))}
          />
        </Box>
      ))}
      <Typography variant="caption" color="text.secondary" sx={{ gridColumn: '1 / -1' }}>
        {own
          ? 'What is left empty comes from its steps.'
          : rules.from.guards
            ? `They are ${ofScope(rules.from.guards, answer)}; what is typed here replaces all of them.`
            : 'From its steps; typed here they are its own.'}
      </Typography>
    </Box>
  );
}

function Theta({ row, answer, save }: Omit<GoalPanelProps, 'onRemove'>) {
  const { goal, rules, title } = row;
  if (rules.objective === 'profit')
    return <div>Its margin, {significant(rules.targetAcos)}: nothing is steered.</div>;
  if (goal?.objective == null && row.scope !== 'account') return <div>{ofScope(rules, answer)}</div>;
  if (!goal?.theta) return <div>Starts with the next judging.</div>;
  const { value, day, reason, outcome } = goal.theta;
  return (
    <div>
      <b>{significant(value)}</b> since {longDay(day)}. {reason}
      {outcome === 'wants confirmation' && !goal.aboveOne && (
        <Button
          size="small"
          sx={{ py: 0, display: 'block' }}
          aria-label={`Let θ of ${title} go above 1`}
          onClick={() => void save(row, { aboveOne: true })}
        >
          Let it go above 1
        </Button>
      )}
      {goal.aboveOne && (
        <Button
          size="small"
          sx={{ py: 0, display: 'block' }}
          aria-label={`Hold θ of ${title} at 1 again`}
          onClick={() => void save(row, { aboveOne: false })}
        >
          Allowed above 1: hold it at 1 again
        </Button>
      )}
    </div>
  );
}
