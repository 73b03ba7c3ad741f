import { Choice } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { count } from '../../core/metrics/format.ts';
import type { DateOrder, DecimalMark, ImportsAnswer, LoadCall, Preview } from '../../answers/imports.ts';

interface LoadPreviewProps {
  preview: Preview;
  kinds: ImportsAnswer['kinds'];
  onCancel: () => void;
  /** Looks at the file again: at another sheet of it, or as another kind. */
  onLook: (wanted: { sheet?: string; kind?: string }) => void;
  /** The problem, or null when the load has begun. */
  onLoad: (call: LoadCall) => Promise<string | null>;
}

const delimiterNames: Record<string, string> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs' };
const orderNames: Record<string, string> = {
  dmy: 'day first (31/12/2026)',
  mdy: 'month first (12/31/2026)',
  ymd: 'year first',
};
/** How a file would be read: kind, every column with sample values, and what has to be asked. */
export function LoadPreview({ preview, kinds, onCancel, onLook, onLoad }: LoadPreviewProps) {
  const { kind } = preview;
  const [mapping, setMapping] = useState(preview.mapping);
  const [dateOrder, setDateOrder] = useState<DateOrder | ''>(
    preview.dateOrders.length === 1 ? preview.dateOrders[0]! : '',
  );
  const [decimalMark, setDecimalMark] = useState<DecimalMark | ''>(
    preview.decimalMarks.length === 1 ? preview.decimalMarks[0]! : '',
  );
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const columns = kind ? kinds[kind] : [];
  const columnAt = (header: number): string =>
    columns.find(({ name }) => mapping[name] === header)?.name ?? '';
  const tellsSpans = mapping.start_date != null && mapping.end_date != null;
  const missing = columns
    .filter(({ name, required }) => required && mapping[name] == null)
    .filter(({ name }) => name !== 'date' || !tellsSpans)
    .map(({ name }) => name);
  const others = preview.sheets.filter((one) => one.kind !== null && one.name !== preview.sheet);
  const asks = [
    preview.dateOrders.length > 1 && dateOrder === '' && 'how dates are read',
    preview.decimalMarks.length > 1 && decimalMark === '' && 'how numbers are read',
  ].filter(Boolean);
  const map = (header: number, name: string) =>
    setMapping((old) => {
      const next = { ...old };
      for (const key of Object.keys(next)) if (next[key] === header) next[key] = null;
      if (name !== '') next[name] = header;
      return next;
    });

  return (
    <Box data-testid="preview" sx={{ border: 1, borderColor: 'divider', borderRadius: 1, p: 2 }}>
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'baseline', flexWrap: 'wrap', typography: 'body2' }}>
        <b>{preview.fileName}</b>
        <Typography variant="body2" color="text.secondary">
          {count(Math.max(1, Math.round(preview.bytes / 1024)))} kB
          {preview.format === 'csv' &&
            `, ${preview.encoding}, parted by ${delimiterNames[preview.delimiter]}`}
          {preview.format === 'jsonl' && ', JSON Lines'}
          {preview.format === 'xlsx' && ', workbook'}
          {preview.titleRows > 0 &&
            `, ${preview.titleRows} title row${preview.titleRows === 1 ? '' : 's'} above the header`}
          {preview.remembered && ', mapped as last time'}
        </Typography>
        {preview.sheets.length > 1 && (
          <label>
            Sheet{' '}
            <Choice
              aria-label="Sheet"
              value={preview.sheet ?? ''}
              onChange={(event) => onLook({ sheet: event.target.value })}
            >
              {preview.sheets.map((one) => (
                <option key={one.name} value={one.name}>
                  {one.name}
                  {one.kind ? ` (${one.kind})` : ''}
                </option>
              ))}
            </Choice>
          </label>
        )}
        <label>
          It holds{' '}
          <Choice
            aria-label="Kind of file"
            value={kind ?? ''}
            onChange={(event) =>
              onLook({
                kind: event.target.value,
                ...(preview.sheet === null ? {} : { sheet: preview.sheet }),
              })
            }
          >
            {kind === null && <option value="">choose</option>}
            {Object.keys(kinds).map((name) => (
              <option key={name}>{name}</option>
            ))}
          </Choice>
        </label>
        {preview.dateOrders.length > 1 && (
          <label>
            Dates are{' '}
            <Choice
              aria-label="Order of dates"
              value={dateOrder}
              onChange={(event) => setDateOrder(event.target.value as DateOrder | '')}
            >
              <option value="">please say</option>
              {preview.dateOrders.map((order) => (
                <option key={order} value={order}>
                  {orderNames[order]}
                </option>
              ))}
            </Choice>
          </label>
        )}
        {preview.decimalMarks.length > 1 && (
          <label>
            Numbers have a decimal{' '}
            <Choice
              aria-label="Decimal mark"
              value={decimalMark}
              onChange={(event) => setDecimalMark(event.target.value as DecimalMark | '')}
            >
              <option value="">please say</option>
              <option value=".">point (1,234.50)</option>
              <option value=",">comma (1.234,50)</option>
            </Choice>
          </label>
        )}
      </Box>
      <Box sx={{ overflowX: 'auto', mt: 1.5 }}>
        <Box
          component="table"
          sx={{
            borderCollapse: 'collapse',
            fontSize: sizes.small,
            '& td, & th': {
              textAlign: 'left',
              py: 0.4,
              pr: 1.5,
              borderBottom: 1,
              borderColor: 'divider',
              whiteSpace: 'nowrap',
              maxWidth: 200,
              overflow: 'hidden',
              textOverflow: 'ellipsis',
              fontWeight: 400,
            },
          }}
        >
          <thead>
            <tr>
              {preview.headers.map((header, i) => (
                <th scope="col" key={i}>
                  <b>{header}</b>
                </th>
              ))}
            </tr>
            <tr>
              {preview.headers.map((header, i) => (
                <th key={i}>
                  <Choice
                    aria-label={`Column for ${header}`}
                    value={columnAt(i)}
                    onChange={(event) => map(i, event.target.value)}
                  >
                    <option value="">leave out</option>
                    {columns.map(({ name, required }) => (
                      <option key={name} value={name}>
                        {name}
                        {required ? ' *' : ''}
                      </option>
                    ))}
                  </Choice>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {[0, 1, 2].map((row) => (
              <tr key={row}>
                {preview.headers.map((_, i) => (
                  <td key={i}>{preview.samples[i]?.[row] ?? ''}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </Box>
      </Box>
      <Box sx={{ mt: 1.5, display: 'flex', gap: 1.5, alignItems: 'center', flexWrap: 'wrap' }}>
        <Button
          variant="contained"
          disabled={busy || kind === null || missing.length > 0 || asks.length > 0}
          onClick={() => {
            if (kind === null) return;
            setBusy(true);
            void onLoad({
              uploadId: preview.uploadId,
              kind,
              ...(preview.sheet === null ? {} : { sheet: preview.sheet }),
              mapping,
              ...(dateOrder ? { dateOrder } : {}),
              ...(decimalMark ? { decimalMark } : {}),
            }).then((failed) => {
              setProblem(failed);
              setBusy(false);
            });
          }}
        >
          Load the file
        </Button>
        <Button onClick={onCancel}>Leave it</Button>
        <Typography variant="body2" color={problem ? 'error' : 'text.secondary'}>
          {problem ??
            (kind === null
              ? 'Its kind was not recognised. Choose one and say which column holds what.'
              : missing.length > 0
                ? `Say which column holds ${missing.join(', ')}.`
                : asks.length > 0
                  ? `Please say ${asks.join(' and ')}.`
                  : tellsSpans && mapping.date == null
                    ? 'These are sums of many days. They count in windows that hold all of their days.'
                    : `${kind.includes('daily') || kind.includes('hours') ? 'Days in the file replace the same days loaded before.' : 'What the file names is added or changed; nothing is taken away.'}${
                        others.length > 0
                          ? ` Sheets left for later: ${others.map(({ name }) => name).join(', ')}.`
                          : ''
                      }`)}
        </Typography>
      </Box>
    </Box>
  );
}
