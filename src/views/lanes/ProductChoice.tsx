import { useQuery } from '@tanstack/react-query';
import { get } from '../../ui/api.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Filter } from '../../ui/list/filters.tsx';

interface Product {
  sku: string;
  title: string;
}

/** The account's products; null while they are being read. */
export function useProducts(): Product[] | null {
  const goals = useQuery({
    queryKey: ['goals'],
    queryFn: () => get<{ products: Product[] }>('/api/goals'),
    staleTime: 60_000,
  });
  return goals.data?.products ?? null;
}

/** The product that the address asks for; null for all, and for one that there is not. */
export function useSku(): string | null {
  const [sku] = useUrlState('sku');
  const products = useProducts();
  return sku !== null && (products === null || products.some((one) => one.sku === sku)) ? sku : null;
}

/** Which product's terms count; the address keeps it. */
export function ProductChoice() {
  const products = useProducts() ?? [];
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
