import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { count } from '../../core/metrics/format.ts';

export interface Tab<Id extends string = string> {
  id: Id;
  name: string;
  /** How many are in it. */
  count?: number | undefined;
}

interface TabsProps<Id extends string> {
  label: string;
  tabs: readonly Tab<Id>[];
  chosen: Id;
  onChoose: (id: Id) => void;
}

/** The parts of a place, as words in a row beside its name. */
export const Tabs = <Id extends string>({ label, tabs, chosen, onChoose }: TabsProps<Id>) => (
  <Box role="group" aria-label={label} sx={{ display: 'flex', gap: 2, flexWrap: 'wrap' }}>
    {tabs.map(({ id, name, count: many }) => (
      <ButtonBase
        key={id}
        aria-pressed={id === chosen}
        onClick={() => onChoose(id)}
        sx={{
          typography: 'body1',
          pb: 0.25,
          borderBottom: 2,
          borderColor: id === chosen ? 'text.primary' : 'transparent',
          fontWeight: id === chosen ? 700 : 400,
          color: id === chosen ? 'text.primary' : 'text.secondary',
        }}
      >
        {name}
        {many !== undefined && (
          <>
            &nbsp;<small>{count(many)}</small>
          </>
        )}
      </ButtonBase>
    ))}
  </Box>
);
