import { useState } from 'react';
import { money } from '../../core/metrics/format.ts';
import { micros, type Micros } from '../../core/metrics/money.ts';
import { Field } from './fields.tsx';

interface MoneyFieldProps {
  label: string;
  /** Null: nothing is set, the placeholder says what holds then. */
  value: Micros | null;
  placeholder?: string;
  width?: number;
  isWrong?: boolean;
  /** Null: it was emptied. */
  onChange: (value: Micros | null) => void;
}

/** An amount of money: taken when it is left or Enter is pressed; Esc brings back what was there. */
export function MoneyField({ label, value, placeholder, width = 68, isWrong, onChange }: MoneyFieldProps) {
  const [text, setText] = useState<string | null>(null);
  const shown = text ?? (value === null ? '' : money(value).replaceAll(',', ''));
  const number = Number(shown.replace(',', '.'));
  const bad = shown.trim() !== '' && !(Number.isFinite(number) && number >= 0);
  const take = () => {
    if (text === null || bad) return setText(null);
    setText(null);
    const next = shown.trim() === '' ? null : Math.round(micros(number) / 10_000) * 10_000;
    if (next !== value) onChange(next);
  };
  return (
    <Field
      inputMode="decimal"
      aria-label={label}
      aria-invalid={bad || isWrong}
      placeholder={placeholder}
      value={shown}
      style={{ width }}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === 'Enter') take();
        if (event.key === 'Escape') setText(null);
      }}
    />
  );
}
