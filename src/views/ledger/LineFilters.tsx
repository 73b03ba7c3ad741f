import Box from '@mui/material/Box';
import { useEffect, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { lineFilters, lineOrders, type LineFilter, type LineView } from '../../core/changes/sheet.ts';
import { Field } from '../../ui/parts/fields.tsx';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Tabs } from '../../ui/parts/Tabs.tsx';

/** The view of a sheet that the address names. */
export function useLineView(): LineView {
  const [show] = useUrlState('show');
  const [find] = useUrlState('find');
  const [order] = useUrlState('order');
  return {
    show: lineFilters.find((one) => one === show) ?? 'all',
    find: find ?? '',
    order: lineOrders.find((one) => one === order) ?? 'place',
  };
}

const names: Record<LineFilter, string> = {
  all: 'All',
  conflicts: 'In conflict',
  overtaken: 'Overtaken',
  refused: 'Refused',
};

/** What may be seen of a sheet: those in need of a look, and a search in texts and names. */
export function LineFilters({
  view,
  counts,
}: {
  view: LineView;
  counts: Partial<Record<LineFilter, number>>;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [text, setText] = useState(view.find);
  useEffect(() => setText(view.find), [view.find]);
  useEffect(() => {
    const wait = setTimeout(() => setUrl({ find: text }), 200);
    return () => clearTimeout(wait);
  }, [text]);
  useHotkeys('slash', (event) => (event.preventDefault(), input.current?.select()));
  const tabs = lineFilters.flatMap((id) => {
    const count = counts[id];
    return count === undefined || (count === 0 && id !== 'all' && id !== view.show)
      ? []
      : [{ id, name: names[id], count }];
  });
  return (
    <Box sx={{ px: 2, pb: 1, display: 'flex', gap: 2, alignItems: 'center', fontSize: 13 }}>
      {tabs.length > 1 && (
        <Tabs
          label="Lines shown"
          tabs={tabs}
          chosen={view.show}
          onChoose={(id) => setUrl({ show: id === 'all' ? null : id })}
        />
      )}
      <Field
        ref={input}
        type="search"
        aria-label="Find in texts and names"
        placeholder="Find a text, campaign or ad group"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== 'Escape') return;
          setText('');
          event.currentTarget.blur();
        }}
        sx={{ width: 250 }}
      />
    </Box>
  );
}
