import type { ForecastPoint, ForecastsAnswer, KindOfForecast, ModelCheck } from '../../answers/forecasts.ts';
import { Figure } from '../../ui/parts/Figure.tsx';
import { sizes } from '../../ui/theme.ts';
import { Failed, Waiting } from '../../ui/list/ListPage.tsx';
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { symbol } from 'd3';
import { eighty } from '../../core/effect/forecast.ts';
import { count, counted, decimal, percent, signedMoney, significant } from '../../core/metrics/format.ts';
import { units } from '../../core/metrics/money.ts';
import { get } from '../../ui/api.ts';
import { Calibration, shapeOf, type CalibrationPoint } from '../../ui/charts/Calibration.tsx';
import { shortDay } from '../../ui/days.ts';
import { setUrl } from '../../ui/hooks/useUrlState.ts';

const kindNames: Record<string, string> = {
  raise: 'Raises',
  cut: 'Cuts',
  negative: 'Negatives',
  harvest: 'Harvests',
  placements: 'Placements',
  budget: 'Budgets',
  hours: 'Hours',
};

/** Said against seen: how well what was sent did what it was said to do, and how well the model foresees orders. */
export function ForecastsView() {
  const ledger = useQuery({
    queryKey: ['ledger', 'forecasts'],
    queryFn: () => get<ForecastsAnswer>('/api/forecasts'),
  });
  const data = ledger.data;
  if (!data)
    return ledger.isError ? (
      <Failed error={ledger.error} onRetry={() => void ledger.refetch()} />
    ) : (
      <Waiting>Holding what was said against what came.</Waiting>
    );
  const kinds = data.kinds.map(({ kind }) => kind);
  return (
    <Box
      sx={{
        flex: 1,
        minWidth: 0,
        overflowY: 'auto',
        px: 2.5,
        py: 1.5,
        display: 'grid',
        gap: 2,
        alignContent: 'start',
      }}
    >
      <Typography data-testid="forecast-sentence" sx={{ fontSize: sizes.sentence }}>
        {data.count === 0 ? (
          'No forecast has its score yet. A line is scored after its first whole week of settled days, when nothing else changed what it touched.'
        ) : (
          <>
            <b>
              {count(data.inside)} of {counted(data.count, 'forecast')}
            </b>{' '}
            held within their 80 % interval:{' '}
            <Figure name="calibration" label="Held">
              <b>{percent(data.inside / data.count)}</b>
            </Figure>
            .{' '}
            {data.widening > 1
              ? `That is too few: new intervals are ${significant(data.widening)} times as wide until it is not.`
              : data.count < 50
                ? 'From 50 on, intervals are widened when too few hold.'
                : 'New intervals stay as they are.'}
          </>
        )}
      </Typography>
      {data.count > 0 && (
        <Box sx={{ display: 'flex', gap: 3, flexWrap: 'wrap' }}>
          <Calibration points={data.points.map(pointOf)} kinds={kinds} width={370} height={340} />
          <Box sx={{ flex: '1 1 380px', minWidth: 0 }}>
            <Kinds kinds={data.kinds} />
            <Farthest points={data.points} />
          </Box>
        </Box>
      )}
      <Checks checks={data.checks} />
    </Box>
  );
}

const pointOf = ({
  lineId,
  kind,
  expression,
  said,
  seen,
  spread,
  inside,
}: ForecastPoint): CalibrationPoint => ({
  key: String(lineId),
  kind,
  name: expression ?? kind,
  said: said.sales,
  seen: seen.sales,
  half: eighty * spread.sales,
  inside,
});

const cells = { '& td, & th': { px: 0.75, py: 0.5, fontSize: sizes.table, whiteSpace: 'nowrap' } } as const;

/** Bias by kind: what all of them together were said to do, and did. */
function Kinds({ kinds }: { kinds: KindOfForecast[] }) {
  return (
    <Table size="small" aria-label="Forecasts by kind" sx={cells}>
      <TableHead>
        <TableRow>
          <TableCell>Kind</TableCell>
          <TableCell align="right">Count</TableCell>
          <TableCell align="right">Held</TableCell>
          <TableCell align="right">Sales said</TableCell>
          <TableCell align="right">seen</TableCell>
          <TableCell align="right">Spend said</TableCell>
          <TableCell align="right">seen</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {kinds.map(({ kind, count: number, inside, said, seen, spread }) => (
          <TableRow key={kind} data-kind={kind}>
            <TableCell>
              <svg width={14} height={12} aria-hidden style={{ verticalAlign: 'middle', marginRight: 4 }}>
                <path
                  d={
                    symbol(
                      shapeOf(
                        kinds.map((one) => one.kind),
                        kind,
                      ),
                      30,
                    )() ?? ''
                  }
                  transform="translate(7,6)"
                  fill="none"
                  stroke="currentColor"
                />
              </svg>
              {kindNames[kind] ?? kind}
            </TableCell>
            <TableCell align="right">{count(number)}</TableCell>
            <TableCell align="right">{percent(inside / number)}</TableCell>
            <TableCell align="right">
              {signedMoney(said.sales)} ± {count(units(eighty * spread))}
            </TableCell>
            <TableCell align="right">{signedMoney(seen.sales)}</TableCell>
            <TableCell align="right">{signedMoney(said.spend)}</TableCell>
            <TableCell align="right">{signedMoney(seen.spend)}</TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}

const mostFar = 6;

/** The forecasts that missed by most, for whoever wants to know why. */
function Farthest({ points }: { points: ForecastPoint[] }) {
  const far = [...points]
    .filter(({ inside }) => !inside)
    .sort((a, b) => Math.abs(b.seen.sales - b.said.sales) - Math.abs(a.seen.sales - a.said.sales))
    .slice(0, mostFar);
  if (far.length === 0) return null;
  return (
    <Box sx={{ mt: 2, fontSize: sizes.table }}>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        Missed by most
      </Typography>
      {far.map(({ lineId, sheetId, expression, kind, said, seen, weeks }) => (
        <Box key={lineId} sx={{ display: 'flex', gap: 1, justifyContent: 'space-between' }}>
          <Link
            component="button"
            onClick={() => setUrl({ sheet: String(sheetId) }, true)}
            sx={{ font: 'inherit', textAlign: 'left' }}
          >
            {expression ?? kind}
          </Link>
          <span>
            said {signedMoney(said.sales)}, seen {signedMoney(seen.sales)} over {counted(weeks, 'week')}
          </span>
        </Box>
      ))}
    </Box>
  );
}

/** The model's own grades, out of sample: fit to before the last 30 settled days, judged on them. */
function Checks({ checks }: { checks: ModelCheck[] }) {
  if (checks.length === 0) {
    return (
      <Typography variant="body2" color="text.secondary" data-testid="check-sentence">
        The model grades itself once there are more than 30 settled days.
      </Typography>
    );
  }
  const last = checks[checks.length - 1]!;
  const good = last.coverage >= 0.78 && last.coverage <= 0.84;
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        The model, out of sample
      </Typography>
      <Typography variant="body2" data-testid="check-sentence" sx={{ mb: 1 }}>
        Fit to the days before,{' '}
        <Figure name="coverage" label="Coverage">
          {percent(last.coverage)}
        </Figure>{' '}
        of {count(last.rows)} targets came out within their 80 % interval in the last 30 settled days
        {good
          ? ''
          : last.coverage < 0.78
            ? ', fewer than the 78 to 84 % that are good'
            : ', more than the 78 to 84 % that are good'}
        ; {count(last.orders)} orders came where {count(last.expected)} were expected
        {last.kappaCounts ? `, so forecasts are multiplied by ${significant(last.kappa)}` : ''}.{' '}
        {last.words?.used
          ? `${count(last.words.count)} words tell of terms before they speak: the log score of a term is ${signedScore(last.words.score - last.words.plainScore)} better with them.`
          : last.words
            ? 'Words of terms are not used: they foretold the last 30 days no better.'
            : ''}
      </Typography>
      <Table size="small" aria-label="Weekly checks of the model" sx={{ ...cells, maxWidth: 760 }}>
        <TableHead>
          <TableRow>
            <TableCell>Day</TableCell>
            <TableCell align="right">Within 80 %</TableCell>
            <TableCell align="right">Log score</TableCell>
            <TableCell align="right">all alike</TableCell>
            <TableCell align="right">Brier of verdicts</TableCell>
            <TableCell align="right">Orders</TableCell>
            <TableCell align="right">expected</TableCell>
            <TableCell align="right">Drift</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {[...checks].reverse().map((check) => (
            <TableRow key={check.day}>
              <TableCell>{shortDay(check.day)}</TableCell>
              <TableCell align="right">{percent(check.coverage)}</TableCell>
              <TableCell align="right">{significant(check.logScore)}</TableCell>
              <TableCell align="right">{significant(check.plainScore)}</TableCell>
              <TableCell align="right">{check.brier === null ? '–' : significant(check.brier)}</TableCell>
              <TableCell align="right">{count(check.orders)}</TableCell>
              <TableCell align="right">{decimal(check.expected)}</TableCell>
              <TableCell align="right">± {percent(Math.sqrt(check.drift))}</TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
    </Box>
  );
}

const signedScore = (value: number): string => significant(Math.max(0, value));
