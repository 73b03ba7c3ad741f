import { sizes } from '../theme.ts';
import Box from '@mui/material/Box';
import { useMemo } from 'react';
import { count } from '../../core/metrics/format.ts';
import { explainOf, usualOf, type Usual } from '../../core/metrics/explains.ts';

interface ExplanationProps {
  label: string;
  /** Name of the figure, as `explains.ts` knows it. */
  name: string;
  /** What is usual among the rows; null where too few tell, left out where nothing is usual. */
  usual?: Usual | null | undefined;
  /** A value as it stands in the rows. */
  text?: (value: number) => string;
  /** What the rows are: "targets". */
  nouns?: string;
}

/** What a figure is, how it is reckoned, what it cannot tell, and what is usual among the rows that match. */
export function Explanation({ label, name, usual, text = String, nouns = 'rows' }: ExplanationProps) {
  const explained = explainOf(name);
  return (
    <Box
      data-testid="explains"
      sx={{ display: 'grid', gap: 0.5, fontSize: sizes.small, lineHeight: 1.4, maxWidth: 260 }}
    >
      <b>{label}</b>
      {explained && (
        <>
          <span>{explained.what}</span>
          {explained.how && <span>{explained.how}</span>}
          {explained.not && <i>{explained.not}</i>}
        </>
      )}
      {usual && (
        <span>
          Half of these {count(usual.rows)} {nouns} lie between <b>{text(usual.low)}</b> and{' '}
          <b>{text(usual.high)}</b>; the middle one has <b>{text(usual.middle)}</b>.
        </span>
      )}
      {usual === null && <span>Too few of these rows have a value to say what is usual.</span>}
    </Box>
  );
}

interface ListExplanationProps<Row> extends Pick<ExplanationProps, 'label' | 'name' | 'text' | 'nouns'> {
  rows: readonly Row[];
  value: (row: Row) => number | null;
}

/** An explanation of a list that is all here: its quartiles are reckoned when it is looked at. */
export function ListExplanation<Row>({ rows, value, ...rest }: ListExplanationProps<Row>) {
  const usual = useMemo(() => usualOf(rows.map(value)), [rows, value]);
  return <Explanation {...rest} usual={usual} />;
}
