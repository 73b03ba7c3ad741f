import { NumberField } from '../../ui/parts/NumberField.tsx';

/** Whole numbers from 0. */
export const Whole = (props: {
  label: string;
  value: number;
  suffix?: string;
  onChange: (value: number) => void;
}) => (
  <NumberField
    label={props.label}
    value={props.value}
    digits={0}
    width={44}
    least={0}
    {...(props.suffix === undefined ? {} : { suffix: props.suffix })}
    onCommit={(value) => value !== null && props.onChange(Math.round(value))}
  />
);

/** A factor; empty: as goals say. */
export const Factor = (props: {
  label: string;
  value: number | null;
  onChange: (value: number | null) => void;
}) => (
  <NumberField
    label={props.label}
    value={props.value}
    placeholder="goal"
    digits={2}
    width={44}
    onCommit={props.onChange}
  />
);
