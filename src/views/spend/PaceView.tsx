import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useMemo, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { EndRow, PaceAnswer, PaceLine, PaceMeasure } from '../../answers/today.ts';
import { count, counted, money, percent } from '../../core/metrics/format.ts';
import { at } from '../../ui/address.ts';
import { get } from '../../ui/api.ts';
import { PaceChart, PaceMark } from '../../ui/charts/PaceChart.tsx';
import { longDay, shortDay } from '../../ui/days.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { unknownChoices } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { found } from '../../ui/list/found.ts';
import { useList } from '../../ui/list/useList.ts';
import { Field } from '../../ui/parts/fields.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { sizes } from '../../ui/theme.ts';
import { budgetViewIds } from './useBudgets.ts';

const measures = [
  { name: 'spend', label: 'Spend' },
  { name: 'sales', label: 'Ad sales' },
  { name: 'revenue', label: 'Revenue' },
] as const;

const monthName = (month: string): string =>
  new Date(`${month}T00:00:00Z`).toLocaleDateString('en', { month: 'long', timeZone: 'UTC' });

/** Where a measure lands beside its plan: "4,310.00 of 4,000.00, 108 %". */
const besidePlan = ({ middle, plan }: PaceMeasure): ReactNode =>
  plan === null ? (
    money(middle)
  ) : (
    <>
      <b>{money(middle)}</b> of {money(plan)}, {percent(plan > 0 ? middle / plan : null)}
    </>
  );

const columns: ListColumn<PaceLine>[] = [
  {
    id: 'title',
    label: 'What is planned',
    width: 'minmax(140px, 1.2fr)',
    cell: ({ title, sku }) => (sku === '' ? <b>{title}</b> : title),
    below: ({ sku }) => sku,
  },
  ...measures.map(({ name, label }): ListColumn<PaceLine> => ({
    id: name,
    label: `${label}, where it lands`,
    width: 'minmax(190px, 1fr)',
    explains: 'landing',
    cell: (line) => {
      const measure = line[name];
      return measure === null ? <span className="soft">not told</span> : besidePlan(measure);
    },
    below: (line) => {
      const measure = line[name];
      return measure && <PaceMark measure={measure} />;
    },
  })),
];

/** Where the month lands against its plan, with what the open sheet does to it, and money that ends. */
export function PaceView({ tabs }: { tabs: ReactNode }) {
  const [text, setText] = useUrlState('q');
  const pace = useQuery({ queryKey: ['pace'], queryFn: () => get<PaceAnswer>('/api/spend/pace') });
  const answer = pace.data;
  const rows = useMemo(
    () => found(answer?.lines ?? [], { text, in: ({ title, sku }) => [title, sku] }),
    [answer, text],
  );
  const list = useList(rows, ({ sku }) => sku, { about: text ?? '', address: 'product' });
  useHotkeys('slash', () => document.querySelector<HTMLInputElement>('[data-find]')?.focus(), {
    preventDefault: true,
  });
  if (!answer)
    return pace.isError ? (
      <Failed error={pace.error} onRetry={() => void pace.refetch()} />
    ) : (
      <Waiting>Looking where the month lands.</Waiting>
    );
  const [account] = answer.lines;
  const planned = account ? measures.filter(({ name }) => account[name]?.plan != null) : [];
  return (
    <ListPage
      problems={unknownChoices(globalThis.location.search, { view: budgetViewIds })}
      head={
        <ListHead
          title="Spend"
          tabs={tabs}
          name="pace"
          sentence={
            account && (
              <>
                {monthName(answer.month.first)}, known to {longDay(answer.knownTo)},{' '}
                {counted(account.spend.left, 'day')} to come:{' '}
                {(planned.length > 0 ? planned : measures.slice(0, 2)).map(({ name, label }, index) => (
                  <span key={name}>
                    {index > 0 && '; '}
                    {label.toLowerCase()} lands at {besidePlan(account[name]!)}
                  </span>
                ))}
                .{' '}
                {planned.length === 0 && (
                  <Link href={at('/goals?view=plan')}>Nothing is planned for it: plan the month</Link>
                )}
              </>
            )
          }
          filters={
            <>
              <Field
                type="search"
                data-find=""
                aria-label="Find a product"
                placeholder="Find a product  /"
                value={text ?? ''}
                onChange={({ target }) => setText(target.value || null)}
                style={{ width: 170 }}
              />
              <Link href={at('/goals?view=plan')}>Change the plan</Link>
              <Matching>{counted(rows.length, 'line')}</Matching>
            </>
          }
        />
      }
      panel={list.row && <PacePanel line={list.row} answer={answer} />}
    >
      {rows.length === 0 ? (
        <Empty>No product is called so.</Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <ListTable
            label="Pace of the month"
            nouns="products"
            rows={rows}
            columns={columns}
            keyOf={({ sku }) => sku}
            nameOf={({ title }) => title}
            list={list}
          />
        </Box>
      )}
    </ListPage>
  );
}

function PacePanel({ line, answer }: { line: PaceLine; answer: PaceAnswer }) {
  return (
    <Panel label="Why" width={356}>
      <Typography variant="h2">{line.title}</Typography>
      {measures.map(({ name, label }) => {
        const measure = line[name];
        if (!measure) return null;
        const { middle, low, high, plan, done, sheet } = measure;
        return (
          <Part key={name} title={label} explains="landing">
            <PaceChart measure={measure} month={answer.month} knownTo={answer.knownTo} label={label} />
            <Typography sx={{ fontSize: sizes.small }}>
              {money(done)} so far; it lands at {money(middle)} ({money(low)} to {money(high)})
              {plan !== null &&
                `, ${plan > 0 ? percent(middle / plan) : 'more than none'} of what is planned`}
              .{sheet !== null && sheet !== 0 && ` The open sheet is said to change it by ${money(sheet)}.`}
            </Typography>
          </Part>
        );
      })}
      {line.sku === '' && <Ends answer={answer} />}
    </Panel>
  );
}

const endSaid = ({ what, endDate, runsDryOn, budget, spent }: EndRow, today: string): string =>
  what === 'lifetime'
    ? `${money(spent ?? 0)} of ${money(budget ?? 0)} spent; ${runsDryOn === null ? 'it lasts' : `dry on ${shortDay(runsDryOn)}`}${endDate === null ? ', without a last day' : `, ends ${shortDay(endDate)}`}`
    : endDate! < today
      ? `ended on ${shortDay(endDate!)}`
      : `ends on ${shortDay(endDate!)}`;

/** What ends: campaigns by their last days, lifetime budgets, prepaid money. */
function Ends({ answer: { ends, endless, wallet, today } }: { answer: PaceAnswer }) {
  return (
    <>
      {wallet && (
        <Part title="Prepaid money">
          {money(wallet.balance)} left
          {wallet.runsDryOn === null
            ? ': at this pace it lasts for more than a year.'
            : `: at this pace it is gone on ${longDay(wallet.runsDryOn)}. Nothing is shown after that.`}
        </Part>
      )}
      <Part title="Money that ends">
        {ends.length === 0
          ? 'No campaign has a last day or a lifetime budget.'
          : ends.slice(0, 12).map((row) => (
              <div key={row.campaignId}>
                {row.name}: {endSaid(row, today)}
              </div>
            ))}
        {ends.length > 12 && <div>and {count(ends.length - 12)} more</div>}
        <div className="soft">{counted(endless, 'campaign')} run without a last day.</div>
      </Part>
    </>
  );
}
