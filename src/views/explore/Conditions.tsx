import { SearchInput } from '../../ui/list/filters.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Chip from '@mui/material/Chip';
import Popover from '@mui/material/Popover';
import { useState, type RefObject } from 'react';
import type { Condition, Plain } from '../../core/explore/conditions.ts';
import { ConditionEditor } from './ConditionEditor.tsx';
import type { TableRequest } from './useTable.ts';
import { conditionWords, isPlain, stackOf, withStack } from './words.ts';

interface ConditionsProps {
  request: TableRequest;
  currency: string;
  text: RefObject<HTMLInputElement | null>;
  onChange: (where: Condition | null) => void;
}

/** The conditions of a table, each a chip that opens to be changed; and the text in the name. */
export function Conditions({ request, currency, text, onChange }: ConditionsProps) {
  const { level, where } = request;
  const stack = stackOf(where);
  const [open, setOpen] = useState<{ at: number; anchor: HTMLElement } | null>(null);
  const isText = (one: Condition) =>
    isPlain(one) && one.column === 'name' && one.is === 'contains' && !one.not;
  const textAt = stack.findIndex(isText);
  const found = textAt < 0 ? '' : String((stack[textAt] as Plain).value ?? '');
  const setText = (value: string) => {
    const others = stack.filter((_, i) => i !== textAt);
    onChange(withStack(value === '' ? others : [{ column: 'name', is: 'contains', value }, ...others]));
  };
  const put = (at: number, condition: Condition | null) =>
    onChange(
      withStack(
        condition === null
          ? stack.filter((_, i) => i !== at)
          : at < stack.length
            ? stack.map((one, i) => (i === at ? condition : one))
            : [...stack, condition],
      ),
    );
  return (
    <Box role="search" sx={{ display: 'flex', gap: 0.75, alignItems: 'center', flexWrap: 'wrap' }}>
      <SearchInput
        input={text}
        label="Filter by name"
        placeholder="Filter by name"
        value={found}
        width={140}
        onText={setText}
      />
      {stack.map((condition, at) =>
        at === textAt ? null : (
          <Chip
            key={at}
            size="small"
            variant="outlined"
            label={conditionWords(condition, level)}
            onClick={(event) => setOpen({ at, anchor: event.currentTarget })}
            onDelete={() => put(at, null)}
            sx={{ borderRadius: 1, bgcolor: 'background.paper', maxWidth: 420 }}
          />
        ),
      )}
      <Button size="small" onClick={(event) => setOpen({ at: stack.length, anchor: event.currentTarget })}>
        Add a condition
      </Button>
      {stack.length > 1 && (
        <Button size="small" onClick={() => onChange(null)}>
          Clear
        </Button>
      )}
      {open && (
        <Popover
          open
          anchorEl={open.anchor}
          onClose={() => setOpen(null)}
          anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
          slotProps={{ paper: { sx: { p: 2, width: 540 } } }}
        >
          <ConditionEditor
            request={request}
            currency={currency}
            condition={stack[open.at] ?? null}
            others={stack.filter((_, i) => i !== open.at)}
            onDone={(condition) => {
              setOpen(null);
              put(open.at, condition);
            }}
          />
        </Popover>
      )}
    </Box>
  );
}
