import { CloseIcon } from '../../ui/icons.tsx';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import { useMemo, useState } from 'react';
import type { DeskAnswer } from '../../answers/kits.ts';
import { money } from '../../core/metrics/format.ts';
import type { Together } from '../../core/kits/profit.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { newName, Part, Row, type SectionProps } from './parts.tsx';
/** Products by search, or by pasted SKUs and item codes; each gets a kit of its own. */
export function Products({ body, desk, grounds, change }: SectionProps & { desk: DeskAnswer }) {
  const [text, setText] = useState('');
  const [unknown, setUnknown] = useState<string[]>([]);
  const bySign = useMemo(
    () =>
      new Map(
        desk.products.flatMap((one) => [
          [one.sku.toLowerCase(), one.sku] as const,
          [one.itemCode.toLowerCase(), one.sku] as const,
          [`${one.sku} ${one.title}`.toLowerCase(), one.sku] as const,
        ]),
      ),
    [desk],
  );
  const add = (pasted: string) => {
    const whole = bySign.get(pasted.trim().toLowerCase());
    const signs =
      whole === undefined ? pasted.split(/[\s,;]+/).filter((sign) => sign !== '') : [pasted.trim()];
    const found = signs.map((sign) => bySign.get(sign.toLowerCase()));
    setUnknown(signs.filter((_, at) => found[at] === undefined));
    const skus = found.filter((sku) => sku !== undefined);
    if (skus.length === 0) return;
    setText('');
    change((old) => {
      const first = old.skus.length === 0 ? desk.products.find(({ sku }) => sku === skus[0]) : undefined;
      const named = first && old.name === newName ? { name: `${first.code}: ${old.recipe.name}` } : {};
      return { ...old, ...named, skus: [...new Set([...old.skus, ...skus])] };
    });
  };
  const remove = (sku: string) => change((old) => ({ ...old, skus: old.skus.filter((one) => one !== sku) }));
  return (
    <Part title="Products" hint="Search, or paste what they are called by.">
      <Field
        aria-label="Add products"
        placeholder="Search, or paste SKUs or item codes; Enter adds"
        list="kit-products"
        value={text}
        style={{ width: '100%' }}
        onChange={(event) => {
          const { value } = event.target;
          setText(value);
          // What is picked from the list, or pasted whole, needs no Enter.
          if (bySign.has(value.trim().toLowerCase()) && value.includes(' ')) add(value);
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && text.trim() !== '') add(text);
        }}
      />
      <datalist id="kit-products">
        {desk.products
          .filter(({ sku }) => !body.skus.includes(sku))
          .slice(0, 200)
          .map(({ sku, title }) => (
            <option key={sku} value={`${sku} ${title}`} />
          ))}
      </datalist>
      {unknown.length > 0 && (
        <Typography variant="body2" role="alert" color="error">
          The account has no product {unknown.map((sign) => `“${sign}”`).join(', ')}.
        </Typography>
      )}
      {body.skus.map((sku) => {
        const product = desk.products.find((one) => one.sku === sku);
        return (
          <Row key={sku}>
            <Box
              sx={{
                flex: 1,
                minWidth: 0,
                overflow: 'hidden',
                textOverflow: 'ellipsis',
                whiteSpace: 'nowrap',
              }}
            >
              {product ? product.title : sku}
              <Box component="span" sx={{ color: 'text.secondary' }}>
                {product && ` ${money(product.price)}`}
                {product?.profit != null && `, an order may cost ${money(product.profit)}`}
                {product?.stock === 0 && ', out of stock'}
                {product && !grounds.has(sku) && ', being read'}
              </Box>
            </Box>
            <Field
              aria-label={`Code of ${sku} in names`}
              value={body.codes[sku] ?? product?.code ?? sku}
              style={{ width: 96 }}
              onChange={(event) =>
                change((old) => ({ ...old, codes: { ...old.codes, [sku]: event.target.value || ' ' } }))
              }
            />
            <IconButton size="small" aria-label={`Remove ${sku}`} onClick={() => remove(sku)}>
              <CloseIcon sx={{ fontSize: sizes.text }} />
            </IconButton>
          </Row>
        );
      })}
      {body.skus.length > 1 && (
        <Row>
          <Choice
            aria-label="Who shares campaigns"
            value={body.together}
            onChange={({ target }) =>
              change((old) => ({ ...old, together: target.value as Together, edits: {} }))
            }
          >
            <option value="apart">each has campaigns of its own</option>
            <option value="alike">those of like profit share campaigns</option>
            <option value="all">all share campaigns</option>
          </Choice>
        </Row>
      )}
      {body.skus.some((sku) => (grounds.get(sku)?.grounds.running.length ?? 0) > 0) && (
        <label>
          <input
            type="checkbox"
            checked={body.completes}
            onChange={({ target }) => change((old) => ({ ...old, completes: target.checked, edits: {} }))}
          />{' '}
          complete what runs already instead of making it anew
        </label>
      )}
    </Part>
  );
}
