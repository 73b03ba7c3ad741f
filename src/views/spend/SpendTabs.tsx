import Box from '@mui/material/Box';
import { setUrl } from '../../ui/hooks/useUrlState.ts';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { budgetViewIds, budgetViews, type BudgetViewId } from './useBudgets.ts';

export const parts = { 'how-much': 'How much', where: 'Where', when: 'When' };
export type PartId = keyof typeof parts;

interface SpendTabsProps {
  part: PartId;
  view: BudgetViewId;
  onChoose: (part: PartId) => void;
}

/** The parts of Spend, and how the one that is open is looked at; Where has ways of its own. */
export const SpendTabs = ({ part, view, onChoose }: SpendTabsProps) => (
  <>
    <Tabs
      label="Parts of Spend"
      tabs={(Object.keys(parts) as PartId[]).map((id) => ({ id, name: parts[id] }))}
      chosen={part}
      onChoose={onChoose}
    />
    {part === 'how-much' && (
      <Box sx={{ pl: 2.5, borderLeft: 1, borderColor: 'divider' }}>
        <Tabs
          label="How budgets are looked at"
          tabs={budgetViewIds.map((id) => ({ id, name: budgetViews[id] }))}
          chosen={view}
          onChoose={(id) => setUrl({ view: id === 'campaigns' ? null : id }, true)}
        />
      </Box>
    )}
  </>
);
