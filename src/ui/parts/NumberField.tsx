import { useState } from 'react';
import { Field } from './fields.tsx';

interface NumberFieldProps {
  label: string;
  value: number | null;
  placeholder?: string;
  digits: number;
  suffix?: string;
  width?: number;
  /** Numbers below are none. */
  least?: number;
  onCommit: (value: number | null) => void;
}

/** A number that is kept when it is left or Enter is pressed; what is no number says so and is not kept. */
export function NumberField(props: NumberFieldProps) {
  const { label, value, placeholder, digits, suffix, width = 56, least = 0.000001, onCommit } = props;
  const start = value === null ? '' : value.toFixed(digits);
  const [text, setText] = useState<string | null>(null);
  const shown = text ?? start;
  const number = Number(shown.replace(',', '.').replace('−', '-'));
  const wrong = shown !== '' && !(Number.isFinite(number) && number >= least);
  const commit = () => {
    if (text !== null && text !== start && !wrong) onCommit(text === '' ? null : number);
    if (!wrong) setText(null);
  };
  return (
    <span style={{ whiteSpace: 'nowrap' }}>
      <Field
        aria-label={label}
        aria-invalid={wrong}
        inputMode="decimal"
        value={shown}
        placeholder={placeholder}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') setText(null);
        }}
        sx={{
          fontWeight: 700,
          width,
          height: 22,
          border: 0,
          borderBottom: 1,
          borderStyle: wrong ? 'solid' : 'dashed',
          borderRadius: 0,
          bgcolor: 'transparent',
        }}
      />
      {suffix && ` ${suffix}`}
    </span>
  );
}
