import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { type ReactNode } from 'react';
import type { DeskAnswer, GroundsAnswer } from '../../answers/kits.ts';
import type { KitBody } from '../../core/kits/kit.ts';
import type { PartState } from '../../core/kits/recipe.ts';
import { type KeywordCheck } from '../../core/kits/keywords.ts';
import type { Plan } from '../../core/kits/types.ts';
import { sizes } from '../../ui/theme.ts';

/** What is worked on above the plan: the parts of the recipe, or pages to be chosen. */
export type Panel = 'recipe' | 'pages';

export interface InputsProps {
  body: KitBody;
  desk: DeskAnswer;
  grounds: ReadonlyMap<string, GroundsAnswer>;
  checks: readonly KeywordCheck[];
  plans: readonly Plan[];
  change: (to: (old: KitBody) => KitBody) => void;
}

export const Part = ({ title, hint, children }: { title: string; hint?: ReactNode; children: ReactNode }) => (
  <Box
    component="section"
    sx={{ mt: 1.5, display: 'grid', gridTemplateColumns: 'minmax(0, 1fr)', gap: 0.75, fontSize: sizes.table }}
  >
    <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1 }}>
      <Typography variant="h2">{title}</Typography>
      {hint && (
        <Typography variant="caption" color="text.secondary">
          {hint}
        </Typography>
      )}
    </Box>
    {children}
  </Box>
);

export const Row = ({ children }: { children: ReactNode }) => (
  <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>{children}</Box>
);

export type SectionProps = Pick<InputsProps, 'body' | 'grounds' | 'change'>;

export const stateNames: Record<PartState, string> = { fill: 'fill', empty: 'empty', out: 'leave out' };

/** How a kit is called until it has a product. */
export const newName = 'New kit';

/** Figures in columns. */
export const number = { textAlign: 'right', fontVariantNumeric: 'tabular-nums' } as const;
