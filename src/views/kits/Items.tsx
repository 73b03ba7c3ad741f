import Button from '@mui/material/Button';
import type { DeskAnswer } from '../../answers/kits.ts';
import { byStanding, standingOf } from '../../core/kits/pages.ts';
import { count, counted } from '../../core/metrics/format.ts';
import { Area } from '../../ui/parts/fields.tsx';
import { Part, Row, type SectionProps } from './parts.tsx';
/** How many pages are taken by one press. */
const most = 20;

/** Pages of items beside which the products are shown. */
export function Items({
  body,
  desk,
  grounds,
  change,
  isPicking,
  onPick,
}: SectionProps & { desk: DeskAnswer; isPicking: boolean; onPick: () => void }) {
  const first = grounds.get(body.skus[0] ?? '');
  const own = desk.products.find(({ sku }) => sku === body.skus[0]);
  const page = first?.grounds.page ?? { price: own?.price ?? 0, rating: null };
  const known = new Set(body.items.map(({ itemCode }) => itemCode.toUpperCase()));
  /** Dearer or worse rated pages first: their visitors are won most easily. */
  const suggested = (first?.suggestions.items ?? [])
    .filter(({ itemCode }) => !known.has(itemCode))
    .map((item) => ({ ...item, standing: standingOf(item, page) }))
    .filter(({ standing }) => standing.dearer > 0 || standing.worse > 0)
    .sort((a, b) => byStanding(a.standing, b.standing));
  const itemCode = new RegExp(desk.limits.itemCode, 'iu');
  const sold = (first?.grounds.proven ?? [])
    .map((one) => one.text.toUpperCase())
    .filter((code) => itemCode.test(code) && !known.has(code) && code !== own?.itemCode)
    .slice(0, most);
  const text = body.items.map(({ itemCode: code }) => code).join('\n');
  const set = (codes: readonly string[]) =>
    change((old) => {
      const bids = new Map(old.items.map(({ itemCode, bid }) => [itemCode, bid]));
      return { ...old, items: codes.map((itemCode) => ({ itemCode, bid: bids.get(itemCode) ?? null })) };
    });
  const add = (codes: readonly string[]) =>
    set([...body.items.map(({ itemCode: code }) => code).filter((code) => code !== ''), ...codes]);
  return (
    <Part title="Items" hint="Pages beside which the products are shown.">
      <Area
        aria-label="Item codes"
        rows={2}
        value={text}
        placeholder="Paste item codes"
        onChange={({ target }) => set(target.value.split(/[\s,;]+/).slice(0, 5000))}
      />
      <Row>
        <Button size="small" disabled={sold.length === 0} onClick={() => add(sold)}>
          Add {counted(sold.length, 'page')} that sold
        </Button>
        <Button
          size="small"
          disabled={suggested.length === 0}
          onClick={() => add(suggested.slice(0, most).map(({ itemCode: code }) => code))}
        >
          Add {count(Math.min(most, suggested.length))} that are dearer or worse rated
        </Button>
        <Button size="small" aria-pressed={isPicking} onClick={onPick}>
          {isPicking ? 'Close the catalogue' : 'Choose from the catalogue'}
        </Button>
      </Row>
    </Part>
  );
}
