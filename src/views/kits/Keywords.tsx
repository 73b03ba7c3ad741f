import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useCallback, useMemo, useRef, useState } from 'react';
import { pastedKeywords } from '../../core/kits/keywords.ts';
import type { Plan } from '../../core/kits/types.ts';
import { count, counted } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { normalise } from '../../core/text/normalise.ts';
import { Area } from '../../ui/parts/fields.tsx';
import type { KitBody } from '../../core/kits/kit.ts';
import { MoneyField } from '../../ui/parts/MoneyField.tsx';
import { KeywordList } from './KeywordList.tsx';
import { Part, Row, type InputsProps } from './parts.tsx';
/** How many of what there is are taken by one press. */
const most = { proven: 40, suggested: 60 };

/** Keywords by paste, from a file, of terms that sold, and as the marketplace suggests them. */
export function Keywords({ body, desk, grounds, checks, plans, change }: InputsProps) {
  const [text, setText] = useState('');
  const file = useRef<HTMLInputElement>(null);
  const known = useMemo(() => new Set(body.keywords.map((one) => normalise(one.text))), [body.keywords]);
  const first = grounds.get(body.skus[0] ?? '');
  const itemCode = new RegExp(desk.limits.itemCode, 'iu');
  const proven =
    first?.grounds.proven.filter((one) => !known.has(normalise(one.text)) && !itemCode.test(one.text)) ?? [];
  const alike =
    first?.grounds.alike.filter((one) => !known.has(normalise(one.text)) && !itemCode.test(one.text)) ?? [];
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
        {alike.length > 0 && (
          <Button
            size="small"
            title={`Sold for ${[...new Set(alike.map(({ sku }) => sku))].join(', ')}`}
            onClick={() => add(alike.slice(0, most.proven).map((one) => one.text))}
          >
            Add {count(Math.min(most.proven, alike.length))} of like products
          </Button>
        )}
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
      {body.keywords.length > 0 && (
        <label>
          One bid for all{' '}
          <MoneyField
            label="Bid of all keywords"
            value={sameBid(body.keywords)}
            placeholder="by part"
            onChange={(bid) =>
              change((old) => ({ ...old, keywords: old.keywords.map((one) => ({ ...one, bid })) }))
            }
          />
        </label>
      )}
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

/** The bid that all keywords have; null where they differ, or have none. */
const sameBid = ([first, ...others]: KitBody['keywords']): Micros | null =>
  first && others.every(({ bid }) => bid === first.bid) ? first.bid : null;

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
