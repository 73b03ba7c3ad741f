import { useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { TolerateForm } from '../../ui/parts/TolerateForm.tsx';
import { proposalKind } from './filter.ts';
import type { Row } from './types.ts';

/** What may lose on purpose: a target or a term that shall cost less; what sells is never borne. */
const isBearable = (row: Row): boolean =>
  ['terms', 'targets'].includes(row.queue) &&
  row.targetId !== '' &&
  ['cut', 'negative', 'wait'].includes(proposalKind(row));

interface ToleratingProps {
  chosen: () => readonly Row[];
  onDone: () => void;
}

/** `t` asks how much of what is marked, or in focus, is borne; it leaves the queue once that is said. */
export function Tolerating({ chosen, onDone }: ToleratingProps) {
  const [rows, setRows] = useState<readonly Row[]>([]);
  useHotkeys(
    't',
    (event) => {
      event.preventDefault();
      setRows(chosen().filter(isBearable));
    },
    [chosen],
  );
  if (rows.length === 0) return null;
  return (
    <TolerateForm
      rows={rows.map(({ key, subject }) => ({ findingKey: key, name: subject }))}
      onClose={(done) => {
        setRows([]);
        if (done) onDone();
      }}
    />
  );
}
