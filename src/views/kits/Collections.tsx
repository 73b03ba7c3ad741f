import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import type { CollectionRow } from '../../answers/kits.ts';
import { ruleSaid } from '../../core/account/rule.ts';
import { counted } from '../../core/metrics/format.ts';
import { get } from '../../ui/api.ts';
import { sizes } from '../../ui/theme.ts';

/** Of a collection, the last changes are shown; older ones when it is opened. */
const shown = 3;

/** Ad groups whose rules choose their products: who is in, who joined and who left. Nothing where there is none. */
export function Collections() {
  const { data = [] } = useQuery({
    queryKey: ['kits', 'collections'],
    queryFn: () => get<CollectionRow[]>('/api/kits/collections'),
  });
  if (data.length === 0) return null;
  return (
    <Box
      component="section"
      aria-label="Collections"
      sx={{ borderTop: 1, borderColor: 'text.primary', px: 1.5, py: 1 }}
    >
      <Typography variant="h2">Collections</Typography>
      {data.map(({ adGroupId, adGroup, campaign, rule, members, changes }) => (
        <Box key={adGroupId} sx={{ py: 0.5, fontSize: sizes.table }}>
          <b>{campaign === adGroup ? adGroup : `${campaign}, ${adGroup}`}</b>: {ruleSaid(rule)};{' '}
          <span title={members.map(({ title }) => title).join(', ')}>
            {counted(members.length, 'product')}
            {members.length > 0 && ` (${members.map(({ sku }) => sku).join(', ')})`}
          </span>
          <Changes changes={changes.slice(0, shown)} />
          {changes.length > shown && (
            <details>
              <summary>{counted(changes.length - shown, 'earlier change')}</summary>
              <Changes changes={changes.slice(shown)} />
            </details>
          )}
        </Box>
      ))}
    </Box>
  );
}

const Changes = ({ changes }: Pick<CollectionRow, 'changes'>) => (
  <Box component="ul" sx={{ m: 0, pl: 2.5, color: 'text.secondary' }}>
    {changes.map(({ day, sku, joined }) => (
      <li key={`${day} ${sku}`}>
        {day}: {sku} {joined ? 'joined' : 'left'}
      </li>
    ))}
  </Box>
);
