import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import type { GoalsAnswer, PlanMonth } from '../../answers/goals.ts';
import { money, percent } from '../../core/metrics/format.ts';
import { micros, units, type Micros } from '../../core/metrics/money.ts';
import { get } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Empty, Failed, ListHead, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { Choice } from '../../ui/parts/fields.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { PlanFiles } from './PlanFiles.tsx';
import { planFields as fields } from './rows.ts';

const monthName = (month: string): string =>
  new Date(`${month}T00:00:00Z`).toLocaleDateString('en', {
    month: 'long',
    year: 'numeric',
    timeZone: 'UTC',
  });

/** What months shall bring, of the account and of products, beside what they have brought. */
export function PlanView({ tabs }: { tabs: ReactNode }) {
  const { changePlan } = useAct();
  const plan = useQuery({ queryKey: ['plan'], queryFn: () => get<PlanMonth[]>('/api/goals/plan') });
  const goals = useQuery({ queryKey: ['goals'], queryFn: () => get<GoalsAnswer>('/api/goals') });
  const [added, setAdded] = useState<string[]>([]);
  const answer = plan.data;
  if (!answer)
    return plan.isError ? (
      <Failed error={plan.error} onRetry={() => void plan.refetch()} />
    ) : (
      <Waiting>Reading the plan.</Waiting>
    );
  const today = goals.data?.today ?? null;
  const present = today === null ? '' : `${today.slice(0, 7)}-01`;
  const months = [...new Set(answer.map(({ month }) => month))];
  const planned = new Set(answer.map(({ sku }) => sku));
  const skus = [...planned, ...added.filter((sku) => !planned.has(sku))];
  const empty = (month: string, sku: string): PlanMonth => ({
    month,
    sku,
    spend: null,
    sales: null,
    revenue: null,
    done: { spend: 0, sales: 0, revenue: null },
  });
  const rowOf = (month: string, sku: string) =>
    answer.find((one) => one.month === month && one.sku === sku) ?? empty(month, sku);
  const now = rowOf(present, '');
  return (
    <ListPage
      head={
        <ListHead
          title="Goals"
          tabs={tabs}
          name="plan"
          sentence={
            now.spend === null && now.sales === null && now.revenue === null ? (
              'Nothing is planned for this month: type what it shall spend and bring.'
            ) : (
              <>
                {monthName(present)}
                {fields.map(({ name, label }) =>
                  now[name] === null ? null : (
                    <span key={name}>
                      : {label.toLowerCase()} <b>{money(now.done[name] ?? 0)}</b> of {money(now[name])},{' '}
                      {percent((now.done[name] ?? 0) / now[name])}
                    </span>
                  ),
                )}
                .
              </>
            )
          }
          actions={<PlanFiles />}
          filters={
            <Choice
              aria-label="Plan a product by itself"
              value=""
              onChange={({ target }) => target.value && setAdded((old) => [...old, target.value])}
            >
              <option value="">Plan a product by itself</option>
              {goals.data?.products
                .filter(({ sku }) => !skus.includes(sku))
                .map(({ sku, title }) => (
                  <option key={sku} value={sku}>
                    {sku} {title}
                  </option>
                ))}
            </Choice>
          }
        />
      }
    >
      {months.length === 0 ? (
        <Empty>A plan begins with the first figures: fetch from the marketplace or load a file.</Empty>
      ) : (
        <Box
          sx={{
            flex: 1,
            overflow: 'auto',
            bgcolor: 'background.paper',
            borderTop: 1,
            borderColor: 'text.primary',
          }}
          tabIndex={0}
          role="region"
          aria-label="The plan"
        >
          <Box
            component="table"
            aria-label="Plan"
            sx={{
              borderCollapse: 'collapse',
              typography: 'body2',
              '& td, & th': {
                p: 0.75,
                px: 2.25,
                textAlign: 'right',
                fontWeight: 400,
                borderBottom: 1,
                borderColor: 'divider',
              },
              '& th:first-of-type': { textAlign: 'left' },
              '& thead th': { color: 'text.secondary' },
            }}
          >
            <thead>
              <tr>
                <th scope="col">Month</th>
                {fields.flatMap(({ name, label }) => [
                  <th scope="col" key={name}>
                    {label}, planned
                  </th>,
                  <th scope="col" key={`${name} done`}>
                    so far
                  </th>,
                ])}
              </tr>
            </thead>
            <tbody>
              {skus.flatMap((sku) =>
                months.map((month) => {
                  const row = rowOf(month, sku);
                  const isOver = month < present;
                  const put = (name: (typeof fields)[number]['name'], value: Micros | null) => {
                    const { spend, sales, revenue } = row;
                    const before = { month, sku, spend, sales, revenue };
                    void changePlan([before], [{ ...before, [name]: value }]);
                  };
                  return (
                    <tr key={`${sku} ${month}`} data-plan={`${sku} ${month}`}>
                      <th scope="row">
                        {month === present ? <b>{monthName(month)}</b> : monthName(month)}
                        {sku && `, ${sku}`}
                      </th>
                      {fields.flatMap(({ name, label }) => {
                        const value = row[name];
                        const done = row.done[name];
                        return [
                          <td key={name}>
                            {isOver ? (
                              value === null ? (
                                '–'
                              ) : (
                                money(value)
                              )
                            ) : (
                              <NumberField
                                label={`${label} planned for ${monthName(month)}${sku && ` of ${sku}`}`}
                                value={value === null ? null : units(value)}
                                placeholder="not planned"
                                digits={0}
                                width={92}
                                onCommit={(typed) => put(name, typed === null ? null : micros(typed))}
                              />
                            )}
                          </td>,
                          <td key={`${name} done`}>
                            {month > present || done === null ? '–' : money(done)}
                            {value !== null && done !== null && month <= present && (
                              <small> {percent(done / value)}</small>
                            )}
                          </td>,
                        ];
                      })}
                    </tr>
                  );
                }),
              )}
            </tbody>
          </Box>
        </Box>
      )}
    </ListPage>
  );
}
