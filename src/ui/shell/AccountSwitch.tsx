import type { SeasonAnswer } from '../../answers/account.ts';
import ButtonBase from '@mui/material/ButtonBase';
import Divider from '@mui/material/Divider';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { openAccount } from '../address.ts';
import { get } from '../api.ts';
import { longDay } from '../days.ts';

export interface AccountRow {
  accountId: number;
  name: string;
  currency: string;
  source: string;
  today: string | null;
}

/** The same place of another account. */
const sameIn = (accountId: number): string =>
  `/${accountId}/${window.location.pathname.split('/')[2] ?? 'round'}`;

/** Which account this is; opens the others. */
export function AccountSwitch({ account }: { account: SeasonAnswer['account'] | undefined }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const others = useQuery({
    queryKey: ['accounts'],
    queryFn: () => get<{ accounts: AccountRow[] }>('/api/accounts'),
    enabled: anchor !== null,
  });
  return (
    <>
      <ButtonBase
        aria-label={`Account: ${account?.name ?? ''}`}
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{
          width: 132,
          flexShrink: 0,
          alignSelf: 'center',
          display: 'block',
          textAlign: 'left',
          borderRadius: 1,
          py: 0.5,
          '&:hover .name, &:focus-visible .name': { textDecoration: 'underline' },
        }}
      >
        <Typography variant="body2" noWrap className="name" sx={{ fontWeight: 700 }}>
          {account?.name ?? 'Mowing'}
        </Typography>
        <Typography variant="caption" color="text.secondary" noWrap component="div">
          {account ? `${account.source} · ${account.currency}` : ''}
        </Typography>
      </ButtonBase>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {(others.data?.accounts ?? []).map((row) => (
          <MenuItem
            key={row.accountId}
            component="a"
            href={sameIn(row.accountId)}
            selected={row.accountId === openAccount()}
            aria-current={row.accountId === openAccount() ? 'true' : undefined}
            sx={{ display: 'block', minWidth: 230 }}
          >
            <Typography variant="body2" sx={{ fontWeight: row.accountId === openAccount() ? 700 : 400 }}>
              {row.name}
            </Typography>
            <Typography variant="caption" color="text.secondary">
              {row.source} · {row.currency} · {row.today ? `to ${longDay(row.today)}` : 'no figures yet'}
            </Typography>
          </MenuItem>
        ))}
        {others.isError && (
          <MenuItem disabled>
            <Typography variant="body2">{others.error.message}</Typography>
          </MenuItem>
        )}
        <Divider />
        <MenuItem component="a" href="/new">
          <Typography variant="body2">New account</Typography>
        </MenuItem>
      </Menu>
    </>
  );
}
