import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import CloseOutlined from '@mui/icons-material/CloseOutlined';
import { useCallback, useMemo, useRef, useState, type ReactNode } from 'react';
import type { DeskAnswer, GroundsAnswer } from '../../answers/kits.ts';
import type { KitBody } from '../../core/kits/kit.ts';
import { pastedKeywords, type KeywordCheck } from '../../core/kits/keywords.ts';
import type { Plan } from '../../core/kits/plan.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { normalise } from '../../core/text/normalise.ts';
import { Area, Choice, Field } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { KeywordList } from './KeywordList.tsx';
import { MoneyField } from './MoneyField.tsx';

interface InputsProps {
  body: KitBody;
  desk: DeskAnswer;
  grounds: ReadonlyMap<string, GroundsAnswer>;
  checks: readonly KeywordCheck[];
  plans: readonly Plan[];
  change: (to: (old: KitBody) => KitBody) => void;
}

/** What goes into a kit, from the products down to its dates. */
export function Inputs({ body, desk, grounds, checks, plans, change }: InputsProps) {
  const set = useCallback((part: Partial<KitBody>) => change((old) => ({ ...old, ...part })), [change]);
  return (
    <Box
      role="region"
      aria-label="What goes in"
      tabIndex={0}
      sx={{
        width: 412,
        flexShrink: 0,
        overflowY: 'auto',
        px: 2.25,
        pb: 2,
        borderRight: 1,
        borderColor: 'divider',
      }}
    >
      <Part title="Kit">
        <Row>
          <Field
            aria-label="Name of the kit"
            value={body.name}
            maxLength={120}
            style={{ flex: 1 }}
            onChange={(event) => set({ name: event.target.value || ' ' })}
          />
          <RecipeChoice body={body} desk={desk} onChoose={(recipe) => set({ recipe, edits: {} })} />
        </Row>
        <Row>
          <label>
            Budget a day{' '}
            <MoneyField
              label="Budget of the kit"
              value={body.budget}
              onChange={(budget) => set({ budget: budget ?? 0 })}
            />
          </label>
          <label htmlFor="kit-pattern">Names</label>
          <Field
            id="kit-pattern"
            aria-label="Name pattern"
            title="Tokens: {code}, {part}, {purpose}, {sku}, {number}"
            value={body.recipe.pattern}
            style={{ flex: 1, minWidth: 0 }}
            onChange={(event) => set({ recipe: { ...body.recipe, pattern: event.target.value || ' ' } })}
          />
        </Row>
        <Row>
          <label>
            From{' '}
            <Field
              type="date"
              value={body.startDate ?? ''}
              min={desk.today ?? undefined}
              onChange={(event) => set({ startDate: event.target.value || null })}
            />
          </label>
          <label>
            to{' '}
            <Field
              type="date"
              value={body.endDate ?? ''}
              min={body.startDate ?? desk.today ?? undefined}
              onChange={(event) => set({ endDate: event.target.value || null })}
            />
          </label>
          <label>
            <input
              type="checkbox"
              checked={body.startPaused}
              onChange={(event) => set({ startPaused: event.target.checked })}
            />{' '}
            start paused
          </label>
        </Row>
      </Part>
      <Products body={body} desk={desk} grounds={grounds} change={change} />
      <Keywords body={body} desk={desk} grounds={grounds} checks={checks} plans={plans} change={change} />
      <Items body={body} desk={desk} grounds={grounds} change={change} />
      <Part title="Excluded" hint="Phrases that no part of the kit is shown for, one a line.">
        <Area
          aria-label="Excluded phrases"
          rows={2}
          value={body.excluded.join('\n')}
          onChange={({ target }) => set({ excluded: target.value.split('\n').slice(0, 1000) })}
        />
      </Part>
    </Box>
  );
}

const Part = ({ title, hint, children }: { title: string; hint?: ReactNode; children: ReactNode }) => (
  <Box component="section" sx={{ mt: 1.5, display: 'grid', gap: 0.75, fontSize: sizes.table }}>
    <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1 }}>
      <Typography variant="h2">{title}</Typography>
      {hint && (
        <Typography variant="caption" color="text.secondary">
          {hint}
        </Typography>
      )}
    </Box>
    {children}
  </Box>
);

const Row = ({ children }: { children: ReactNode }) => (
  <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>{children}</Box>
);

interface RecipeChoiceProps {
  body: KitBody;
  desk: DeskAnswer;
  onChoose: (recipe: KitBody['recipe']) => void;
}

/** The recipe that the kit follows: one of those that there are, or what was made of one. */
function RecipeChoice({ body, desk, onChoose }: RecipeChoiceProps) {
  const known = desk.recipes.find(({ recipe }) => recipe.name === body.recipe.name);
  return (
    <Choice
      aria-label="Recipe"
      value={body.recipe.name}
      style={{ width: 150 }}
      onChange={(event) => {
        const chosen = desk.recipes.find(({ recipe }) => recipe.name === event.target.value);
        if (chosen) onChoose(chosen.recipe);
      }}
    >
      {!known && <option value={body.recipe.name}>{body.recipe.name}</option>}
      {desk.recipes.map(({ recipe: { name } }) => (
        <option key={name} value={name}>
          {name}
        </option>
      ))}
    </Choice>
  );
}

type SectionProps = Pick<InputsProps, 'body' | 'grounds' | 'change'>;

/** Products by search, or by pasted SKUs and item codes; each gets a kit of its own. */
function Products({ body, desk, grounds, change }: SectionProps & { desk: DeskAnswer }) {
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
    <Part title="Products" hint="Each gets a kit of its own.">
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
              <CloseOutlined sx={{ fontSize: sizes.text }} />
            </IconButton>
          </Row>
        );
      })}
    </Part>
  );
}

/** How a kit is called until it has a product. */
export const newName = 'New kit';

/** How many of what there is are taken by one press. */
const most = { proven: 40, suggested: 60, items: 20 };

function Keywords({ body, desk, grounds, checks, plans, change }: InputsProps) {
  const [text, setText] = useState('');
  const file = useRef<HTMLInputElement>(null);
  const known = useMemo(() => new Set(body.keywords.map((one) => normalise(one.text))), [body.keywords]);
  const first = grounds.get(body.skus[0] ?? '');
  const itemCode = new RegExp(desk.limits.itemCode, 'iu');
  const proven =
    first?.grounds.proven.filter((one) => !known.has(normalise(one.text)) && !itemCode.test(one.text)) ?? [];
  const suggested = first?.suggestions.keywords.filter((one) => !known.has(normalise(one.text))) ?? [];
  const ranges = useMemo(
    () => new Map(first?.suggestions.keywords.map((one) => [normalise(one.text), one.range]) ?? []),
    [first],
  );
  const add = (texts: readonly string[]) =>
    change((old) => ({
      ...old,
      keywords: [...old.keywords, ...texts.map((one) => ({ text: one.slice(0, 400), bid: null }))].slice(
        0,
        20_000,
      ),
    }));
  const bids = useMemo(() => bidsOf(plans[0]), [plans]);
  const bidOf = useCallback((one: string) => bids.get(one) ?? null, [bids]);
  const rangeOf = useCallback((one: string) => ranges.get(normalise(one)) ?? null, [ranges]);
  const setBid = useCallback(
    (at: number, bid: Micros | null) =>
      change((old) => ({
        ...old,
        keywords: old.keywords.map((one, i) => (i === at ? { ...one, bid } : one)),
      })),
    [change],
  );
  const remove = useCallback(
    (at: number) => change((old) => ({ ...old, keywords: old.keywords.filter((_, i) => i !== at) })),
    [change],
  );
  const pasted = pastedKeywords(text);
  const wrong = checks.filter(
    (check) => check.wrong !== null || check.repeats || check.blockedBy !== null,
  ).length;
  return (
    <Part
      title="Keywords"
      hint={
        body.keywords.length > 0 &&
        `${counted(body.keywords.length, 'keyword')}${wrong > 0 ? `, ${count(wrong)} of them stay out` : ''}`
      }
    >
      <Area
        aria-label="Paste keywords"
        rows={2}
        value={text}
        placeholder="Paste keywords, parted by lines, commas or semicolons"
        onChange={({ target }) => setText(target.value)}
      />
      <Row>
        <Button
          size="small"
          variant="outlined"
          disabled={pasted.length === 0}
          onClick={() => (add(pasted), setText(''))}
        >
          Add {pasted.length > 0 ? counted(pasted.length, 'keyword') : 'what is pasted'}
        </Button>
        <Button
          size="small"
          disabled={proven.length === 0}
          onClick={() => add(proven.slice(0, most.proven).map((one) => one.text))}
        >
          Add {count(Math.min(most.proven, proven.length))} that sold
        </Button>
        <Button
          size="small"
          disabled={suggested.length === 0}
          onClick={() => add(suggested.slice(0, most.suggested).map((one) => one.text))}
        >
          Add {count(Math.min(most.suggested, suggested.length))} suggested
        </Button>
        <Button size="small" onClick={() => file.current?.click()}>
          From a file
        </Button>
        {wrong > 0 && (
          <Button
            size="small"
            onClick={() =>
              change((old) => ({
                ...old,
                keywords: old.keywords.filter((_, at) => {
                  const check = checks[at];
                  return !check || (check.wrong === null && !check.repeats && check.blockedBy === null);
                }),
              }))
            }
          >
            Drop {count(wrong)} that stay out
          </Button>
        )}
        <input
          ref={file}
          type="file"
          accept=".txt,.csv,text/plain,text/csv"
          hidden
          aria-label="File of keywords"
          onChange={(event) => {
            const [chosen] = event.target.files ?? [];
            void chosen?.text().then((content) => add(pastedKeywords(content)));
            event.target.value = '';
          }}
        />
      </Row>
      {first?.problem && (
        <Typography variant="body2" role="note" color="text.secondary">
          {first.problem}
        </Typography>
      )}
      <KeywordList
        keywords={body.keywords}
        checks={checks}
        rangeOf={rangeOf}
        bidOf={bidOf}
        onBid={setBid}
        onRemove={remove}
      />
    </Part>
  );
}

/** Bids of a plan's keywords, those of the most precise part that has them. */
function bidsOf(plan: Plan | undefined): Map<string, Micros> {
  const order = ['broad', 'phrase', 'exact'];
  const parts = [...(plan?.parts ?? [])].sort(
    (a, b) => order.indexOf(a.part.kind) - order.indexOf(b.part.kind),
  );
  return new Map(
    parts.flatMap(({ targets }) => targets.map(({ expression, bid }) => [expression, bid] as const)),
  );
}

function Items({ body, desk, grounds, change }: SectionProps & { desk: DeskAnswer }) {
  const first = grounds.get(body.skus[0] ?? '');
  const own = desk.products.find(({ sku }) => sku === body.skus[0]);
  const known = new Set(body.items.map(({ itemCode }) => itemCode.toUpperCase()));
  /** Dearer or worse rated pages first: their visitors are won most easily. */
  const suggested = (first?.suggestions.items ?? [])
    .filter(({ itemCode }) => !known.has(itemCode))
    .sort((a, b) => b.price - a.price)
    .filter(({ price }) => price >= (own?.price ?? 0));
  const itemCode = new RegExp(desk.limits.itemCode, 'iu');
  const sold = (first?.grounds.proven ?? [])
    .map((one) => one.text.toUpperCase())
    .filter((code) => itemCode.test(code) && !known.has(code) && code !== own?.itemCode)
    .slice(0, most.items);
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
          onClick={() => add(suggested.slice(0, most.items).map(({ itemCode: code }) => code))}
        >
          Add {count(Math.min(most.items, suggested.length))} pages that are dearer
        </Button>
      </Row>
    </Part>
  );
}
