import { Figure } from '../../ui/parts/Figure.tsx';
import { sizes } from '../../ui/theme.ts';
import { Explanation } from '../../ui/parts/Explanation.tsx';
import { HeadCell } from '../../ui/list/HeadCell.tsx';
import { useAct } from '../../ui/hooks/useAct.ts';
import { ListHead, Failed, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { largestStep, stances, type Stance } from '../../core/bids/guards.ts';
import type { SteeringOutcome } from '../../core/goals/theta.ts';
import { count, money, percent, significant } from '../../core/metrics/format.ts';
import { micros, units } from '../../core/metrics/money.ts';
import { get, send } from '../../ui/api.ts';
import { longDay } from '../../ui/days.ts';
import { Shell } from '../../ui/shell/Shell.tsx';

interface GoalAnswer {
  scope: 'account' | 'product' | 'campaign';
  key: string;
  targetAcos: number;
  bidFloor: number | null;
  bidCeiling: number | null;
  stance: Stance;
  /** Theta may rise above 1. */
  aboveOne: boolean;
  theta: { value: number; day: string; reason: string; outcome: SteeringOutcome | null } | null;
}

interface GoalsAnswer {
  goals: GoalAnswer[];
  products: { sku: string; title: string; price: number; stock: number | null; margin: number | null }[];
  campaigns: { campaignId: string; name: string; status: string }[];
}

export function GoalsView() {
  return (
    <Shell>
      <Goals />
    </Shell>
  );
}

type Draft = Omit<GoalAnswer, 'theta'>;

const steps = (stance: Stance): string => {
  const { up, down } = largestStep[stance];
  return `× ${significant(up)} up, ÷ ${significant(1 / down)} down`;
};

interface Head {
  label: string;
  /** Name of the figure that its head explains. */
  name?: string;
  isNumber?: boolean;
}

const heads: Head[] = [
  { label: 'Where' },
  { label: 'Break-even', name: 'break_even', isNumber: true },
  { label: 'Target ACOS', name: 'target_acos', isNumber: true },
  { label: 'Price', isNumber: true },
  { label: 'Floor', name: 'floor', isNumber: true },
  { label: 'Ceiling', name: 'ceiling', isNumber: true },
  { label: 'Steps', name: 'steps' },
  { label: 'Share of revenue per click a bid may be (θ)', name: 'theta' },
  { label: '' },
];

const columns = 'minmax(200px, 1.4fr) 80px 92px 64px 64px 64px 112px minmax(220px, 1.8fr) 76px';

function Goals() {
  const { act } = useAct();
  const goals = useQuery({ queryKey: ['goals'], queryFn: () => get<GoalsAnswer>('/api/goals') });
  const [adding, setAdding] = useState('');

  const save = (draft: Draft) =>
    void act(() => send('PUT', '/api/goals', draft), 'Goal kept. Everything is judged anew.');
  const remove = (goal: GoalAnswer) =>
    void act(
      () => send('DELETE', `/api/goals?scope=${goal.scope}&key=${encodeURIComponent(goal.key)}`),
      'Override removed. The wider goal rules again.',
    );

  const data = goals.data;
  if (!data)
    return goals.isError ? (
      <Failed error={goals.error} onRetry={() => void goals.refetch()} />
    ) : (
      <Waiting>Reading the goals.</Waiting>
    );
  const account = data.goals.find((goal) => goal.scope === 'account')!;
  const find = (scope: string, key: string) =>
    data.goals.find((goal) => goal.scope === scope && goal.key === key);
  const campaigns = data.goals.filter((goal) => goal.scope === 'campaign');
  return (
    <ListPage
      head={
        <ListHead
          title="Goals"
          name="goals"
          sentence={
            <>
              The account aims at{' '}
              <Figure name="target_acos" label="Target ACOS">
                <b>{percent(account.targetAcos)}</b>
              </Figure>
              ; <b>{data.goals.length - 1}</b>{' '}
              {data.goals.length === 2 ? 'override has its' : 'overrides have their'} own. A changed goal
              judges every term and target anew at once.
            </>
          }
        />
      }
    >
      <Box
        sx={{
          bgcolor: 'background.paper',
          borderTop: 1,
          borderColor: 'text.primary',
          fontSize: sizes.table,
          pb: 2,
          flex: 1,
          minHeight: 0,
          overflowY: 'auto',
        }}
      >
        <Box role="table" aria-label="Goals">
          <Box
            role="row"
            sx={{
              display: 'grid',
              gridTemplateColumns: columns,
              columnGap: 1.5,
              px: 2.25,
              py: 0.75,
              color: 'text.secondary',
              fontSize: sizes.small,
            }}
          >
            {heads.map(({ label, name, isNumber }) => (
              <HeadCell
                key={label}
                label={label}
                isNumber={isNumber ?? false}
                explanation={name ? <Explanation label={label} name={name} /> : null}
              />
            ))}
          </Box>
          <GoalRow
            title="The account"
            detail="rules wherever nothing narrower does"
            scope="account"
            name=""
            goal={account}
            wider={null}
            onSave={save}
          />
          {data.products.map((product) => (
            <GoalRow
              key={product.sku}
              title={product.sku}
              detail={`${product.title}${product.stock !== null && product.stock <= 0 ? ', out of stock' : product.stock !== null && product.stock < 50 ? `, ${count(product.stock)} left` : ''}`}
              scope="product"
              name={product.sku}
              goal={find('product', product.sku) ?? null}
              wider={account}
              margin={product.margin}
              price={product.price}
              onSave={save}
              onRemove={remove}
            />
          ))}
          {campaigns.map((goal) => (
            <GoalRow
              key={goal.key}
              title={data.campaigns.find((campaign) => campaign.campaignId === goal.key)?.name ?? goal.key}
              detail="campaign"
              scope="campaign"
              name={goal.key}
              goal={goal}
              wider={account}
              onSave={save}
              onRemove={remove}
            />
          ))}
        </Box>
        <Box sx={{ px: 2.25, pt: 1.5, display: 'flex', gap: 1, alignItems: 'center' }}>
          <Choice
            aria-label="Campaign for an override"
            value={adding}
            onChange={(event) => setAdding(event.target.value)}
          >
            <option value="">Override for a campaign</option>
            {data.campaigns
              .filter((campaign) => !find('campaign', campaign.campaignId))
              .map((campaign) => (
                <option key={campaign.campaignId} value={campaign.campaignId}>
                  {campaign.name}
                </option>
              ))}
          </Choice>
          <Button
            disabled={adding === ''}
            onClick={() => {
              save({
                scope: 'campaign',
                key: adding,
                targetAcos: account.targetAcos,
                bidFloor: null,
                bidCeiling: null,
                stance: account.stance,
                aboveOne: account.aboveOne,
              });
              setAdding('');
            }}
          >
            Add override
          </Button>
        </Box>
      </Box>
    </ListPage>
  );
}

interface GoalRowProps {
  title: string;
  detail: string;
  scope: GoalAnswer['scope'];
  name: string;
  goal: GoalAnswer | null;
  /** The goal that rules while there is none of its own. */
  wider: GoalAnswer | null;
  margin?: number | null;
  price?: number;
  onSave: (draft: Draft) => void;
  onRemove?: (goal: GoalAnswer) => void;
}

function GoalRow({ title, detail, scope, name, goal, wider, margin, price, onSave, onRemove }: GoalRowProps) {
  const rules = goal ?? wider!;
  const draft = (values: Partial<Draft>): Draft => ({
    scope,
    key: name,
    targetAcos: rules.targetAcos,
    bidFloor: goal?.bidFloor ?? null,
    bidCeiling: goal?.bidCeiling ?? null,
    stance: rules.stance,
    aboveOne: rules.aboveOne,
    ...values,
  });
  const aboveBreakEven = margin != null && rules.targetAcos > margin;
  return (
    <Box
      role="row"
      data-goal={`${scope}:${name}`}
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        columnGap: 1.5,
        px: 2.25,
        py: 0.75,
        alignItems: 'center',
        borderTop: 1,
        borderColor: 'divider',
      }}
    >
      <Box role="cell" sx={{ minWidth: 0 }}>
        <b>{title}</b>
        <Typography variant="caption" color="text.secondary" component="div" noWrap title={detail}>
          {detail}
        </Typography>
      </Box>
      <Box role="cell" sx={{ textAlign: 'right' }}>
        {margin != null ? percent(margin) : ''}
      </Box>
      <Box role="cell" sx={{ textAlign: 'right' }}>
        <NumberField
          label={`Target ACOS of ${title}, per cent`}
          value={goal ? goal.targetAcos * 100 : null}
          placeholder={(rules.targetAcos * 100).toFixed(0)}
          suffix="%"
          digits={Number.isInteger(Math.round(rules.targetAcos * 1e4) / 100) ? 0 : 1}
          onCommit={(value) => value !== null && onSave(draft({ targetAcos: value / 100 }))}
        />
        {aboveBreakEven && <Box sx={{ color: 'error.main', fontSize: sizes.tiny }}>above break-even</Box>}
      </Box>
      <Box role="cell" sx={{ textAlign: 'right' }}>
        {price !== undefined ? money(price) : ''}
      </Box>
      {(['bidFloor', 'bidCeiling'] as const).map((field) => (
        <Box role="cell" key={field} sx={{ textAlign: 'right' }}>
          <NumberField
            label={`${field === 'bidFloor' ? 'Bid floor' : 'Bid ceiling'} of ${title}`}
            value={goal?.[field] == null ? null : units(goal[field])}
            placeholder={field === 'bidFloor' ? '0.04' : 'none'}
            digits={2}
            onCommit={(value) => onSave(draft({ [field]: value === null ? null : micros(value) }))}
          />
        </Box>
      ))}
      <Box role="cell">
        <Choice
          aria-label={`Steps of ${title}`}
          value={rules.stance}
          title={steps(rules.stance)}
          onChange={(event) => onSave(draft({ stance: event.target.value as Stance }))}
          sx={{ width: '100%', border: 0, color: goal ? 'text.primary' : 'text.secondary' }}
        >
          {stances.map((stance) => (
            <option key={stance} value={stance} title={steps(stance)}>
              {stance}
            </option>
          ))}
        </Choice>
        <Typography variant="caption" color="text.secondary" component="div">
          {steps(rules.stance)}
        </Typography>
      </Box>
      <Box role="cell" sx={{ fontSize: sizes.small, color: 'text.secondary' }}>
        {goal?.theta ? (
          <>
            <b>{significant(goal.theta.value)}</b> since {longDay(goal.theta.day)}. {goal.theta.reason}
            {goal.theta.outcome === 'wants confirmation' && !goal.aboveOne && (
              <Button
                size="small"
                sx={{ py: 0, display: 'block' }}
                aria-label={`Let θ of ${title} go above 1`}
                onClick={() => onSave(draft({ aboveOne: true }))}
              >
                Let it go above 1
              </Button>
            )}
            {goal.aboveOne && (
              <Button
                size="small"
                sx={{ py: 0, display: 'block' }}
                aria-label={`Hold θ of ${title} at 1 again`}
                onClick={() => onSave(draft({ aboveOne: false }))}
              >
                Allowed above 1: hold it at 1 again
              </Button>
            )}
          </>
        ) : goal ? (
          'starts with the next judging'
        ) : (
          'the account’s'
        )}
      </Box>
      <Box role="cell">
        {goal && onRemove && (
          <Button
            size="small"
            sx={{ py: 0 }}
            aria-label={`Remove the override of ${title}`}
            onClick={() => onRemove(goal)}
          >
            Remove
          </Button>
        )}
      </Box>
    </Box>
  );
}

interface NumberFieldProps {
  label: string;
  value: number | null;
  placeholder: string;
  digits: number;
  suffix?: string;
  onCommit: (value: number | null) => void;
}

/** A number that is kept when it is left or Enter is pressed; what is no number says so and is not kept. */
function NumberField({ label, value, placeholder, digits, suffix, onCommit }: NumberFieldProps) {
  const start = value === null ? '' : value.toFixed(digits);
  const [text, setText] = useState<string | null>(null);
  const shown = text ?? start;
  const number = Number(shown.replace(',', '.'));
  const wrong = shown !== '' && !(Number.isFinite(number) && number > 0);
  const commit = () => {
    if (text !== null && text !== start && !wrong) onCommit(text === '' ? null : number);
    if (!wrong) setText(null);
  };
  return (
    <span>
      <Field
        aria-label={label}
        aria-invalid={wrong}
        inputMode="decimal"
        value={shown}
        placeholder={placeholder}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') setText(null);
        }}
        sx={{
          fontWeight: 700,
          width: 56,
          border: 0,
          borderBottom: 1,
          borderStyle: wrong ? 'solid' : 'dashed',
          borderRadius: 0,
          bgcolor: 'transparent',
        }}
      />
      {suffix && ` ${suffix}`}
    </span>
  );
}
