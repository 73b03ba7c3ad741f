import Box from '@mui/material/Box';
import type { Step } from '../../core/round/explain.ts';
import { sizes } from '../theme.ts';

/** How a figure comes about, step by step: what it is, the formula with its values, what comes out. */
export const Working = ({ steps }: { steps: readonly Step[] }) => (
  <Box component="dl" data-testid="why-working" sx={{ m: 0, display: 'grid', gap: 0.4 }}>
    {steps.map((step) => (
      <Box key={step.name} sx={{ display: 'grid', gridTemplateColumns: '1fr auto', columnGap: 1 }}>
        <Box component="dt" sx={{ color: 'text.secondary', fontSize: sizes.tiny }}>
          {step.name}
        </Box>
        <Box component="dd" sx={{ m: 0, fontWeight: 700, gridRow: 'span 2', alignSelf: 'end' }}>
          {step.result}
        </Box>
        <Box component="dd" sx={{ m: 0, fontSize: sizes.small }}>
          {step.formula}
        </Box>
      </Box>
    ))}
  </Box>
);
