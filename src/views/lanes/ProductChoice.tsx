import { useQuery } from '@tanstack/react-query';
import { get } from '../../ui/api.ts';
import { Filter } from '../../ui/list/filters.tsx';

/** Which product's terms count; the address keeps it. */
export function ProductChoice() {
  const goals = useQuery({
    queryKey: ['goals'],
    queryFn: () => get<{ products: { sku: string; title: string }[] }>('/api/goals'),
    staleTime: 60_000,
  });
  const products = goals.data?.products ?? [];
  return (
    <Filter
      param="sku"
      label="Product"
      none="all products"
      width={180}
      options={products.map(({ sku, title }) => [sku, title])}
    />
  );
}
