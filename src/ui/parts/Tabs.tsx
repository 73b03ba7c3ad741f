import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { count } from '../../core/metrics/format.ts';
import { sizes } from '../theme.ts';

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

/** So many fit beside a place's name in full size. */
const many = 8;

/** The parts of a place, as words in a row beside its name. */
export const Tabs = <Id extends string>({ label, tabs, chosen, onChoose }: TabsProps<Id>) => (
  <Box
    role="group"
    aria-label={label}
    sx={{ display: 'flex', gap: tabs.length > many ? 1.5 : 2, flexWrap: 'wrap' }}
  >
    {tabs.map(({ id, name, count: held }) => (
      <ButtonBase
        key={id}
        aria-pressed={id === chosen}
        onClick={() => onChoose(id)}
        sx={{
          typography: 'body1',
          ...(tabs.length > many ? { fontSize: sizes.sentence } : {}),
          pb: 0.25,
          borderBottom: 2,
          borderColor: id === chosen ? 'text.primary' : 'transparent',
          fontWeight: id === chosen ? 700 : 400,
          color: id === chosen ? 'text.primary' : 'text.secondary',
        }}
      >
        {name}
        {held !== undefined && (
          <>
            &nbsp;<small>{count(held)}</small>
          </>
        )}
      </ButtonBase>
    ))}
  </Box>
);
