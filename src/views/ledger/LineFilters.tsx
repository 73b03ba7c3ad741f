import { unknownChoices, SearchField } from '../../ui/list/filters.tsx';
import { lineFilters, lineOrders, type LineFilter, type LineView } from '../../core/changes/sheet.ts';
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
  const tabs = lineFilters.flatMap((id) => {
    const count = counts[id];
    return count === undefined || (count === 0 && id !== 'all' && id !== view.show)
      ? []
      : [{ id, name: names[id], count }];
  });
  return (
    <>
      {tabs.length > 1 && (
        <Tabs
          label="Lines shown"
          tabs={tabs}
          chosen={view.show}
          onChoose={(id) => setUrl({ show: id === 'all' ? null : id })}
        />
      )}
      <SearchField
        param="find"
        label="Find in texts and names"
        placeholder="Find a text, campaign or ad group"
        width={260}
        wait={200}
      />
    </>
  );
}

/** What of the address is no view of a sheet. */
export const viewProblems = () =>
  unknownChoices(globalThis.location.search, { show: lineFilters, order: lineOrders });
