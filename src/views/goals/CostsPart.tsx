import Box from '@mui/material/Box';
import { useState } from 'react';
import type { GoalProduct } from '../../answers/goals.ts';
import { breakEven } from '../../core/goals/economics.ts';
import { decimal, money, percent } from '../../core/metrics/format.ts';
import { micros, units } from '../../core/metrics/money.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Part } from '../../ui/parts/Panel.tsx';
import type { Costs } from '../../ui/undo.ts';
import { NumberField } from '../../ui/parts/NumberField.tsx';

const fields: { name: keyof Omit<Costs, 'sku'>; label: string; isShare: boolean }[] = [
  { name: 'unitCost', label: 'Unit cost', isShare: false },
  { name: 'feeRate', label: 'Fees of the price', isShare: true },
  { name: 'feeFixed', label: 'Fee an order', isShare: false },
  { name: 'shipping', label: 'Shipping', isShare: false },
  { name: 'refundRate', label: 'Refunded', isShare: true },
];

/** What a product costs, and what an order of it may cost in ads; each cost is changed where it stands. */
export function CostsPart({ product, targetAcos }: { product: GoalProduct; targetAcos: number }) {
  const { changeCosts } = useAct();
  const [cpc, setCpc] = useState<number | null>(null);
  const { sku, economics } = product;
  const costs: Costs = {
    sku,
    unitCost: economics.unitCost ?? null,
    feeRate: economics.feeRate ?? null,
    feeFixed: economics.feeFixed ?? null,
    shipping: economics.shipping ?? null,
    refundRate: economics.refundRate ?? null,
  };
  const click = cpc ?? (product.cpc === null ? null : Math.round(product.cpc));
  const known =
    costs.unitCost === null
      ? null
      : breakEven(
          {
            price: economics.price,
            unitCost: costs.unitCost,
            feeRate: costs.feeRate ?? 0,
            feeFixed: costs.feeFixed ?? 0,
            shipping: costs.shipping ?? 0,
            refundRate: costs.refundRate ?? 0,
          },
          targetAcos,
          click ?? 0,
        );
  const clicks = (value: number | null) => (value === null ? '–' : decimal(value));
  return (
    <Part title="Costs and break-even" explains="break_even">
      <Box sx={{ display: 'grid', gridTemplateColumns: '116px 1fr', rowGap: 0.25, mt: 0.5 }}>
        <span>Price</span>
        <span>{money(economics.price)}</span>
        {fields.map(({ name, label, isShare }) => {
          const value = costs[name];
          return (
            <Box key={name} sx={{ display: 'contents' }}>
              <span>{label}</span>
              <NumberField
                label={`${label} of ${sku}`}
                value={value === null ? null : isShare ? value * 100 : units(value)}
                placeholder="not known"
                width={72}
                digits={isShare ? 1 : 2}
                suffix={isShare ? '%' : ''}
                least={0}
                onCommit={(typed) =>
                  void changeCosts(costs, {
                    ...costs,
                    [name]: typed === null ? null : isShare ? typed / 100 : micros(typed),
                  })
                }
              />
            </Box>
          );
        })}
        <span>A click costs</span>
        <NumberField
          label={`CPC of ${sku} to reckon with`}
          value={click === null ? null : units(click)}
          placeholder="a CPC"
          digits={2}
          suffix={cpc === null && product.cpc !== null ? 'of its last 30 settled days' : ''}
          onCommit={(typed) => setCpc(typed === null ? null : micros(typed))}
        />
      </Box>
      {known ? (
        <Box data-testid="break-even" sx={{ mt: 0.75 }}>
          {known.acos > 0 ? (
            <>
              <b>{money(known.costPerOrder)}</b> are left of an order: an ACOS of <b>{percent(known.acos)}</b>{' '}
              breaks even, after <b>{clicks(known.clicks)} clicks</b>. At {percent(targetAcos)} an order may
              cost <b>{money(known.targetCostPerOrder)}</b> and take{' '}
              <b>{clicks(known.targetClicks)} clicks</b>
              {known.conversion !== null &&
                click !== null &&
                `: ${percent(known.conversion)} of them must sell`}
              .
            </>
          ) : (
            <b>
              Every order loses {money(-known.costPerOrder)} before any advertising: no goal can mend that.
            </b>
          )}
        </Box>
      ) : (
        <Box sx={{ mt: 0.75, color: 'text.secondary' }}>
          Its margin is not known before its unit cost is told.
        </Box>
      )}
    </Part>
  );
}
