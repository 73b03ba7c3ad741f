import { useQuery } from '@tanstack/react-query';
import { get } from '../../ui/api.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';

/** Which product's terms count; the address keeps it. */
export function ProductChoice() {
  const [sku, setSku] = useUrlState('sku');
  const goals = useQuery({
    queryKey: ['goals'],
    queryFn: () => get<{ products: { sku: string; title: string }[] }>('/api/goals'),
    staleTime: 60_000,
  });
  return (
    <Choice
      aria-label="Product"
      value={sku ?? ''}
      onChange={(event) => setSku(event.target.value)}
      sx={{ width: 180 }}
    >
      <option value="">All products</option>
      {(goals.data?.products ?? []).map((product) => (
        <option key={product.sku} value={product.sku}>
          {product.title}
        </option>
      ))}
    </Choice>
  );
}
