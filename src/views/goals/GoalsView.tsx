import type { GoalAnswer, GoalsAnswer } from '../../answers/goals.ts';
import { columns, GoalRow, type Draft } from './GoalRow.tsx';
import { Figure } from '../../ui/parts/Figure.tsx';
import { sizes } from '../../ui/theme.ts';
import { Explanation } from '../../ui/parts/Explanation.tsx';
import { HeadCell } from '../../ui/list/HeadCell.tsx';
import { useAct } from '../../ui/hooks/useAct.ts';
import { ListHead, Failed, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { Choice } from '../../ui/parts/fields.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { count, percent } from '../../core/metrics/format.ts';
import { get } from '../../ui/api.ts';
import { valuesOf } from '../../ui/undo.ts';
import { Shell } from '../../ui/shell/Shell.tsx';

export function GoalsView() {
  return (
    <Shell>
      <Goals />
    </Shell>
  );
}

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

function Goals() {
  const { changeGoal } = useAct();
  const goals = useQuery({ queryKey: ['goals'], queryFn: () => get<GoalsAnswer>('/api/goals') });
  const [adding, setAdding] = useState('');

  const find = (scope: string, key: string) =>
    goals.data?.goals.find((goal) => goal.scope === scope && goal.key === key);
  const put = ({ scope, key }: Pick<Draft, 'scope' | 'key'>, values: Draft | null, said: string) =>
    void changeGoal({ scope, key, before: valuesOf(find(scope, key)) }, values, said);
  const save = (draft: Draft) => put(draft, draft, 'Goal kept. Everything is judged anew.');
  const remove = (goal: GoalAnswer) => put(goal, null, 'Override removed. The wider goal rules again.');

  const data = goals.data;
  if (!data)
    return goals.isError ? (
      <Failed error={goals.error} onRetry={() => void goals.refetch()} />
    ) : (
      <Waiting>Reading the goals.</Waiting>
    );
  const account = data.goals.find((goal) => goal.scope === 'account')!;
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
