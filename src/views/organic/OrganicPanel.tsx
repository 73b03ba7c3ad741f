import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import type { ToleranceRow } from '../../answers/idle.ts';
import type { OrganicKeyword, OrganicProduct, OrganicProductAnswer } from '../../answers/organic.ts';
import type { Window } from '../../core/metrics/days.ts';
import { count, counted, money, percent } from '../../core/metrics/format.ts';
import type { Series } from '../../core/organic/follow.ts';
import { at } from '../../ui/address.ts';
import { get } from '../../ui/api.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Failed, Waiting } from '../../ui/list/ListPage.tsx';
import { Figure } from '../../ui/parts/Figure.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { smallTable } from '../../ui/parts/smallTable.ts';
import { Lanes } from './Lanes.tsx';
import { FollowingSaid, pictureSaid } from './FollowingSaid.tsx';
import { LagPicture } from './LagPicture.tsx';
import { lanesOf, readLags, writeLags, type LaneId, type Lags } from './lanes.ts';

interface OrganicPanelProps {
  product: OrganicProduct;
  window: Window;
  tolerances: readonly ToleranceRow[];
}

const width = 640;
const chartWidth = 452;

/** A product on one time axis: what was paid, where it stood, what it sold, and what of that followed what. */
export function OrganicPanel({ product, window, tolerances }: OrganicPanelProps) {
  const { sku, title } = product;
  const detail = useQuery({
    queryKey: ['organic product', sku, window.from, window.to],
    queryFn: () =>
      get<OrganicProductAnswer>(
        `/api/organic/product?sku=${encodeURIComponent(sku)}&from=${window.from}&to=${window.to}`,
      ),
    placeholderData: (previous) => previous,
  });
  const [keywordName, setKeyword] = useUrlState('keyword', true);
  const [lagsText, setLagsText] = useUrlState('lags');
  const answer = detail.data;
  if (!answer)
    return (
      <Panel label={`Ranks of ${title}`} width={width}>
        {detail.isError ? (
          <Failed error={detail.error} onRetry={() => void detail.refetch()} />
        ) : (
          <Waiting>Laying days on one axis.</Waiting>
        )}
      </Panel>
    );
  const keyword = answer.keywords.find((one) => one.keyword === keywordName) ?? null;
  const lags = readLags(lagsText);
  const setLags = (next: Lags) => setLagsText(writeLags(next));
  const setLag = (id: LaneId, lag: number) => setLags({ ...lags, [id]: lag });
  const rankAfterSpend = keyword?.rankAfterSpend ?? answer.rankAfterSpend;
  const { salesAfterRank } = answer;
  const rankLag = rankAfterSpend.peak?.lag ?? null;
  const salesLag = salesAfterRank.peak?.lag ?? null;
  const found: Lags = {
    ...(rankLag !== null && { rank: rankLag }),
    ...(salesLag !== null && { revenue: (rankLag ?? 0) + salesLag }),
  };
  const isMoved = Object.keys(lags).length > 0;
  return (
    <Panel label={`Ranks of ${title}`} width={width}>
      <Typography variant="h2">{title}</Typography>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 32, color: 'text.secondary' }}>
        {keyword ? (
          <>
            <span>
              its keyword <b>{keyword.keyword}</b>
            </span>
            <Button size="small" onClick={() => setKeyword(null)}>
              The whole product
            </Button>
          </>
        ) : (
          <span>{counted(answer.keywords.length, 'keyword')} followed</span>
        )}
        <Box sx={{ ml: 'auto', display: 'flex', gap: 1 }}>
          {isMoved ? (
            <Button size="small" onClick={() => setLags({})}>
              Back to their own days
            </Button>
          ) : (
            Object.values(found).some((lag) => lag !== 0) && (
              <Button size="small" onClick={() => setLags(found)}>
                Lay what follows under its cause
              </Button>
            )
          )}
        </Box>
      </Box>
      <Lanes
        days={answer.days}
        lanes={lanesOf(answer, keyword)}
        lags={lags}
        onLag={setLag}
        width={chartWidth}
      />
      {answer.keywords.length === 0 ? (
        <Part title="Ranks">
          Nobody told where it stands: ranks come with the report “ranks-daily”, fetched or loaded as a file.
        </Part>
      ) : (
        <>
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 2.5 }}>
            <Part title="Rank after spend" explains="following">
              <Box sx={{ mb: 0.5, minHeight: 54, '&::first-letter': { textTransform: 'uppercase' } }}>
                <FollowingSaid
                  following={rankAfterSpend}
                  name="rank-after-spend"
                  first={keyword ? 'what its searches cost' : 'what searches cost, over its keywords'}
                  second="rank"
                />
              </Box>
              <LagPicture
                following={rankAfterSpend}
                label={pictureSaid(rankAfterSpend, 'Rank after spend')}
                lag={lags.rank ?? 0}
                onLag={(lag) => setLag('rank', lag)}
              />
            </Part>
            <Part title="Organic sales after rank" explains="following">
              <Box sx={{ mb: 0.5, minHeight: 54, '&::first-letter': { textTransform: 'uppercase' } }}>
                <FollowingSaid
                  following={salesAfterRank}
                  name="sales-after-rank"
                  first="ranks of the product"
                  second="organic sales"
                />
              </Box>
              <LagPicture
                following={salesAfterRank}
                label={pictureSaid(salesAfterRank, 'Organic sales after rank')}
                lag={(lags.revenue ?? 0) - (lags.rank ?? 0)}
                onLag={(lag) => setLag('revenue', (lags.rank ?? 0) + lag)}
              />
            </Part>
          </Box>
          <Keywords
            answer={answer}
            chosen={keyword}
            tolerances={tolerances.filter((row) => row.sku === sku)}
            onChoose={(name) => setUrl({ keyword: name }, true)}
          />
        </>
      )}
    </Panel>
  );
}

const endsOf = (series: Series, days: number): { first: number | null; last: number | null } => {
  const own = series.slice(-days);
  return {
    first: own.find((value) => value !== null) ?? null,
    last: [...own].reverse().find((value) => value !== null) ?? null,
  };
};
const rankText = (rank: number | null): string => (rank === null ? '–' : count(rank));

const keywordTable = {
  ...smallTable,
  '& td, & th': { ...smallTable['& td, & th'], pl: 1 },
  '& th:first-of-type': { ...smallTable['& th:first-of-type'], pl: 0, maxWidth: 170, overflow: 'hidden' },
} as const;

interface KeywordsProps {
  answer: OrganicProductAnswer;
  chosen: OrganicKeyword | null;
  tolerances: readonly ToleranceRow[];
  onChoose: (keyword: string | null) => void;
}

/** Keywords with what their rank may sell, and beside it what is tolerated for it. */
function Keywords({ answer, chosen, tolerances, onChoose }: KeywordsProps) {
  const borne = (keyword: string) =>
    tolerances.filter(({ name, back }) => name.toLowerCase() === keyword && back === null);
  const sum = (values: readonly number[]): number => values.reduce((all, value) => all + value, 0);
  return (
    <Part title={`Its keywords, ${counted(answer.days.length, 'day')}`}>
      <Box component="table" sx={keywordTable} aria-label="Keywords and their ranks">
        <thead>
          <tr>
            <th scope="col">Keyword</th>
            <th scope="col">Rank</th>
            <th scope="col">In ads</th>
            <th scope="col">Spend</th>
            <th scope="col">
              <Figure name="rank_share" label="Of what its ranks sell">
                Part
              </Figure>
            </th>
            <th scope="col">
              <Figure name="rank_sells" label="The rank sells">
                Sells a week
              </Figure>
            </th>
            <th scope="col">
              <Figure name="rank_left" label="Left before ads">
                Leaves
              </Figure>
            </th>
            <th scope="col">Tolerated</th>
          </tr>
        </thead>
        <tbody>
          {answer.keywords.map((row) => {
            const { keyword, organicRank, sponsoredRank, spend, share, earns } = row;
            const [rank, ad] = [endsOf(organicRank, answer.days.length), endsOf(sponsoredRank, 7)];
            const loss = borne(keyword).reduce((all, one) => all + Math.max(0, one.loss), 0);
            return (
              <tr key={keyword} data-keyword={keyword}>
                <th scope="row">
                  <ButtonBase
                    aria-pressed={row === chosen}
                    onClick={() => onChoose(row === chosen ? null : keyword)}
                    sx={{
                      font: 'inherit',
                      color: 'text.primary',
                      fontWeight: row === chosen ? 700 : 400,
                      textDecoration: 'underline',
                      textUnderlineOffset: 3,
                      textDecorationColor: (theme) => theme.palette.roles.bar,
                      minHeight: 24,
                    }}
                  >
                    {keyword}
                  </ButtonBase>
                </th>
                <td>
                  {rankText(rank.first)} to <b>{rankText(rank.last)}</b>
                </td>
                <td>{rankText(ad.last)}</td>
                <td>{money(sum(spend))}</td>
                <td>{percent(share)}</td>
                <td>{earns ? money(earns.sales) : '–'}</td>
                <td>{earns?.left == null ? '–' : money(earns.left)}</td>
                <td className={earns?.left != null && loss > earns.left ? 'over' : undefined}>
                  {borne(keyword).length === 0 ? '' : <b>{money(loss)}</b>}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Box>
      {tolerances.length > 0 && (
        <Link href={at('/goals?view=tolerated')} sx={{ display: 'inline-block', mt: 0.75 }}>
          Losses tolerated for this product
        </Link>
      )}
    </Part>
  );
}
