import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import type { Collateral, TermLine } from '../../answers/terms.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { Part } from './Panel.tsx';

export const orders = (n: number): string => (n === 0 ? 'no order' : counted(n, 'order'));

const line = ({ term, clicks, spend, orders: sold, sales }: TermLine) => (
  <Box key={term} sx={{ display: 'grid', gridTemplateColumns: '1fr auto', columnGap: 1 }}>
    <Box component="span" sx={{ overflowWrap: 'anywhere' }}>
      {term}
    </Box>
    <span>
      {sold > 0 ? `${orders(sold)}, ${money(sales)}` : `${counted(clicks, 'click')}, ${money(spend)}`}
    </span>
  </Box>
);

interface CollateralPartsProps {
  data: Collateral;
  /** Offers the other number of the words too; left out where it cannot be added. */
  onTwin?: (words: string) => void;
}

/** What a negative phrase takes along, and what it lets through. */
export const CollateralParts = ({ data, onTwin }: CollateralPartsProps) => (
  <>
    <Part title="A negative phrase would take along">
      <Typography variant="body2" data-testid="collateral">
        {data.orders === 0 ? (
          <b>No order is lost in this window.</b>
        ) : (
          <b>
            {orders(data.orders)} and {money(data.sales)} of sales are lost,
          </b>
        )}{' '}
        {counted(data.terms, 'term')}, {money(data.spend)} of spend.
      </Typography>
      {data.sellers.slice(0, 12).map(line)}
      {data.sellers.length > 12 && <div>and {count(data.sellers.length - 12)} more that sold</div>}
      {data.keywords.length > 0 && (
        <Typography variant="body2" color="error" sx={{ mt: 0.5 }}>
          {count(data.keywords.length)} of your keywords have it:{' '}
          {data.keywords
            .slice(0, 3)
            .map((one) => `${one.matchType} “${one.expression}” in ${one.adGroup}`)
            .join(', ')}
          .
        </Typography>
      )}
    </Part>
    {data.twins.length > 0 && (
      <Part title="What the phrase lets through">
        {data.twins.map((twin) => (
          <Box key={twin.words} data-testid="twin" sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
            <Box component="span" sx={{ flex: 1 }}>
              “{twin.words}”: {counted(twin.terms, 'term')}, {money(twin.spend)} of spend,{' '}
              {orders(twin.orders)}
            </Box>
            {onTwin && (
              <Button size="small" sx={{ py: 0 }} onClick={() => onTwin(twin.words)}>
                Add both
              </Button>
            )}
          </Box>
        ))}
      </Part>
    )}
    {data.others.length > 0 && (
      <Part title="Dearest terms without an order">{data.others.slice(0, 8).map(line)}</Part>
    )}
  </>
);
