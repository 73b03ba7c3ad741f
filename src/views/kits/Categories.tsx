import { CloseIcon } from '../../ui/icons.tsx';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { CategoriesAnswer } from '../../answers/kits.ts';
import { categoryTarget, ownCategory } from '../../core/kits/pages.ts';
import type { KitCategory } from '../../core/kits/types.ts';
import { get } from '../../ui/api.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { Part, Row, type SectionProps } from './parts.tsx';

/** Categories of the marketplace, read once. */
export const useCategories = () =>
  useQuery({
    queryKey: ['kits', 'categories'],
    queryFn: () => get<CategoriesAnswer>('/api/kits/categories'),
  });

/** Categories on whose pages the products are shown, narrowed by brand, and by the product's own price and rating. */
export function Categories({ body, grounds, change }: SectionProps) {
  const known = useCategories();
  const page = grounds.get(body.skus[0] ?? '')?.grounds.page;
  const [category, setCategory] = useState('');
  const [brand, setBrand] = useState('');
  const chosen = body.categories.length > 0 ? body.categories : page ? ownCategory(page) : [];
  const set = (categories: readonly KitCategory[]) => change((old) => ({ ...old, categories }));
  const name = category || known.data?.categories[0]?.category;
  return (
    <Part
      title="Categories"
      hint={
        body.categories.length === 0 ? 'Its own, while none is chosen.' : 'From its price up, rated up to it.'
      }
    >
      {known.data?.problem && (
        <Typography variant="body2" role="note" color="text.secondary">
          {known.data.problem}
        </Typography>
      )}
      {chosen.map((one, at) => (
        <Row key={`${one.category} ${one.brand ?? ''}`}>
          <span style={{ flex: 1, minWidth: 0 }}>{page ? categoryTarget(one, page) : one.category}</span>
          {body.categories.length > 0 && (
            <>
              {(['fromOwnPrice', 'toOwnRating'] as const).map((narrow) => (
                <label key={narrow}>
                  <input
                    type="checkbox"
                    checked={one[narrow]}
                    onChange={({ target }) =>
                      set(
                        chosen.map((other, i) => (i === at ? { ...other, [narrow]: target.checked } : other)),
                      )
                    }
                  />{' '}
                  {narrow === 'fromOwnPrice' ? 'by price' : 'by rating'}
                </label>
              ))}
              <IconButton
                size="small"
                aria-label={`Remove category ${one.category}`}
                onClick={() => set(body.categories.filter((_, i) => i !== at))}
              >
                <CloseIcon sx={{ fontSize: sizes.text }} />
              </IconButton>
            </>
          )}
        </Row>
      ))}
      {known.data && known.data.categories.length > 0 && (
        <Row>
          <Choice
            aria-label="Category"
            value={name}
            style={{ flex: 1, minWidth: 0 }}
            onChange={({ target }) => setCategory(target.value)}
          >
            {known.data.categories.map(({ category: one, items }) => (
              <option key={one} value={one}>
                {one}, {items} items
              </option>
            ))}
          </Choice>
          <Field
            aria-label="Brand of the category"
            placeholder="any brand"
            value={brand}
            style={{ width: 90 }}
            onChange={({ target }) => setBrand(target.value)}
          />
          <Button
            size="small"
            onClick={() => {
              const next = {
                category: name!,
                fromOwnPrice: true,
                toOwnRating: true,
                brand: brand.trim() || null,
              };
              const isThere = (one: KitCategory) =>
                one.category === next.category && one.brand === next.brand;
              if (!body.categories.some(isThere)) set([...body.categories, next]);
            }}
          >
            Add category
          </Button>
        </Row>
      )}
    </Part>
  );
}
