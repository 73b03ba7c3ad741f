interface MarkBoxProps {
  /** What is marked. */
  name: string;
  checked: boolean;
  disabled?: boolean;
  /** `range` from the last one marked to here. */
  onMark: (range: boolean) => void;
}

/** The box that marks a row. A click of the mouse leaves the keys to the table: a box in focus would swallow them. */
export const MarkBox = ({ name, checked, disabled = false, onMark }: MarkBoxProps) => (
  <input
    type="checkbox"
    checked={checked}
    disabled={disabled}
    aria-label={`Mark ${name}`}
    onChange={() => undefined}
    onClick={(event) => {
      event.stopPropagation();
      // A press of the space bar clicks without a mouse: there the focus stays.
      if (event.detail > 0) event.currentTarget.blur();
      onMark(event.shiftKey);
    }}
  />
);
