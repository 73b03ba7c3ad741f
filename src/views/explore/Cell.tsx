import { Choice } from '../../ui/parts/fields.tsx';
import type { Level } from '../../core/account/levels.ts';
import { fieldAt } from '../../core/changes/fields.ts';
import { useState, type KeyboardEvent } from 'react';
import type { TableRow } from '../../answers/explore.ts';
import { columnLabel } from '../../core/explore/columns.ts';
import type { Value } from '../../core/explore/conditions.ts';
import { fieldText, readNumber } from '../../core/explore/typed.ts';
import { Whisker } from '../../ui/parts/Whisker.tsx';
import { cellText, isNumber } from './cells.ts';
import { editableColumns, type TableColumn } from './layout.ts';
import { below } from './state.ts';
import { StepLine } from '../../ui/charts/StepLine.tsx';

/** A cell that is being changed: its row, and the name of its column. */
export interface EditedCell {
  key: string;
  name: string;
}

interface CellProps {
  level: Level;
  column: TableColumn;
  value: Value;
  row: TableRow | null;
  isEditing: boolean;
  onOpen: (key: string) => void;
  onEdit: (cell: EditedCell | null) => void;
  onValue: (cell: EditedCell, value: number | string) => void;
}

/** One value of a row: a name that opens, a whisker with its verdict, a value that can be changed, or just a value. */
export function Cell({ level, column, value, row, isEditing, onOpen, onEdit, onValue }: CellProps) {
  const { name, kind } = column.column;
  const stays = column.left === null ? '' : ' stays';
  const { style } = column;
  if (row === null) return <div role="gridcell" className={`none${stays}`} style={style} />;
  const text = cellText(column, value);
  if (name === 'name') {
    return (
      <div role="gridcell" className={stays} style={style} title={text}>
        {below(level, row.key) ? (
          <button type="button" className="open" tabIndex={-1} onClick={() => onOpen(row.key)}>
            {text}
          </button>
        ) : (
          <b>{text}</b>
        )}
      </div>
    );
  }
  if (name === 'verdict') {
    const verdict = (value ?? 'undecided') as 'under' | 'over' | 'undecided';
    return (
      <div role="gridcell" className={`judged ${verdict}${stays}`} style={style} title={text}>
        <Whisker
          interval={row.interval ?? null}
          target={row.targetAcos ?? 0.3}
          verdict={verdict}
          width={64}
        />
        {text.replace(' goal', '')}
      </div>
    );
  }
  if (name === 'bid_history') {
    return (
      <div
        role="gridcell"
        className={stays}
        style={style}
        title={typeof value === 'string' ? value : undefined}
      >
        {typeof value === 'string' && <StepLine steps={value} />}
      </div>
    );
  }
  const editable = column.frame === '' && editableColumns(level).includes(name) && value !== 'archived';
  if (editable && isEditing) {
    const field = fieldAt(level, name);
    const cell = { key: row.key, name };
    return (
      <div role="gridcell" className="number" style={{ ...style, overflow: 'visible' }}>
        {field?.choices ? (
          <StatusInput
            value={String(value)}
            choices={field.choices}
            onValue={(next) => onValue(cell, next)}
            onCancel={() => onEdit(null)}
          />
        ) : field?.kind === 'day' ? (
          <DayInput
            label={columnLabel(column)}
            value={typeof value === 'string' ? value : ''}
            onValue={(next) => onValue(cell, next)}
            onCancel={() => onEdit(null)}
          />
        ) : (
          <CellInput
            label={columnLabel(column)}
            kind={kind}
            value={typeof value === 'number' ? value : 0}
            onValue={(next) => onValue(cell, next)}
            onCancel={() => onEdit(null)}
          />
        )}
      </div>
    );
  }
  const tone =
    value === null
      ? ' none'
      : text === 'no sales' || (name === 'gain' && (value as number) < 0)
        ? ' over'
        : name === 'gain'
          ? ' under'
          : '';
  return (
    <div
      role="gridcell"
      className={`${isNumber(kind) ? 'number' : ''}${tone}${stays}`}
      style={style}
      title={kind === 'text' ? text : undefined}
      onDoubleClick={editable ? () => onEdit({ key: row.key, name }) : undefined}
    >
      {editable ? <span className="changes">{text}</span> : text}
    </div>
  );
}

interface StatusInputProps {
  value: string;
  choices: readonly string[];
  onValue: (value: string) => void;
  onCancel: () => void;
}

/** A status chosen where it stands. */
function StatusInput({ value, choices, onValue, onCancel }: StatusInputProps) {
  return (
    <Choice
      autoFocus
      aria-label="Status"
      value={value}
      onChange={(event) => onValue(event.target.value)}
      onBlur={onCancel}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') onCancel();
      }}
      style={{ font: 'inherit', width: '100%' }}
    >
      {[value, ...choices.filter((choice) => choice !== value)].map((choice) => (
        <option key={choice} value={choice}>
          {choice.replaceAll('_', ' ')}
        </option>
      ))}
    </Choice>
  );
}

interface DayInputProps {
  label: string;
  value: string;
  onValue: (value: string) => void;
  onCancel: () => void;
}

/** A day picked where it stands: Enter puts it on the sheet, nothing takes it away, Escape leaves it. */
function DayInput({ label, value, onValue, onCancel }: DayInputProps) {
  const [day, setDay] = useState(value);
  return (
    <input
      autoFocus
      type="date"
      aria-label={label}
      value={day}
      onChange={(event) => setDay(event.target.value)}
      onBlur={onCancel}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') onCancel();
        if (event.key === 'Enter') onValue(day);
      }}
      style={{ font: 'inherit', width: 126 }}
    />
  );
}

interface CellInputProps {
  label: string;
  kind: TableColumn['column']['kind'];
  value: number;
  onValue: (value: number) => void;
  onCancel: () => void;
}

/** A value changed where it stands: Enter puts it on the sheet, Escape leaves it. */
function CellInput({ label, kind, value, onValue, onCancel }: CellInputProps) {
  const [text, setText] = useState(fieldText(kind, value));
  const next = readNumber(kind, text);
  const wrong = next === null || next < 0;
  const onKey = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') onCancel();
    if (event.key === 'Enter' && !wrong) onValue(next);
  };
  return (
    <input
      autoFocus
      aria-label={label}
      aria-invalid={wrong}
      inputMode="decimal"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={onCancel}
      onKeyDown={onKey}
      style={{
        font: 'inherit',
        width: '100%',
        textAlign: 'right',
        padding: '1px 3px',
        boxSizing: 'border-box',
      }}
    />
  );
}
