import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ApiError, get, send } from '../../ui/api.ts';
import { Field } from '../../ui/parts/fields.tsx';
import type { AccountRow } from '../../ui/shell/AccountSwitch.tsx';
import { Surroundings } from '../../ui/shell/Shell.tsx';
import { KnownValues, Line } from './parts.tsx';

interface Values {
  name: string;
  currency: string;
  timeZone: string;
  /** Per cent, as written. */
  targetAcos: string;
  source: 'files' | 'marketplace';
  address: string;
  secret: string;
}

/** Where a field of the call stands in the form. */
const fieldOf: Record<string, keyof Values> = {
  name: 'name',
  currency: 'currency',
  timeZone: 'timeZone',
  targetAcos: 'targetAcos',
  marketplace: 'address',
  'marketplace.address': 'address',
};

/** The first page of an installation, and of every further account: what is it, and where do its figures come from. */
export const NewAccountView = () => (
  <Surroundings>
    <NewAccount />
  </Surroundings>
);

function NewAccount() {
  const known = useQuery({
    queryKey: ['accounts'],
    queryFn: () => get<{ accounts: AccountRow[] }>('/api/accounts'),
  });
  const [problem, setProblem] = useState('');
  const form = useForm<Values>({
    defaultValues: {
      name: '',
      currency: 'EUR',
      timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
      targetAcos: '30',
      source: 'files',
      address: '',
      secret: '',
    },
  });
  const { register, watch, formState } = form;
  const { errors, isSubmitting, isSubmitSuccessful } = formState;
  const source = watch('source');
  const first = known.data?.accounts.length === 0;
  const make = async (values: Values) => {
    setProblem('');
    const acos = Number(values.targetAcos.replace(',', '.').replace('%', '')) / 100;
    const marketplace =
      values.source === 'files'
        ? null
        : { kind: 'quayside', address: values.address.trim() || null, secret: values.secret || null };
    const { name, currency, timeZone } = values;
    try {
      const { accountId } = await send<{ accountId: number }>('POST', '/api/accounts', {
        name,
        currency,
        timeZone,
        targetAcos: acos,
        marketplace,
      });
      window.location.assign(`/${accountId}/data`);
    } catch (error) {
      const field = error instanceof ApiError ? fieldOf[error.field ?? ''] : undefined;
      const { message } = error as Error;
      if (field) form.setError(field, { message }, { shouldFocus: true });
      else {
        setProblem(message);
        form.setError('root', { message });
      }
    }
  };
  return (
    <Box
      component="main"
      sx={{
        minHeight: '100vh',
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr) minmax(0, 560px) minmax(0, 1.4fr)',
      }}
    >
      <Box sx={{ gridColumn: 2, pt: '9vh', pb: 6 }}>
        <Typography sx={{ fontWeight: 800, fontSize: sizes.sentence, color: 'primary.main', mb: 3 }}>
          mowing
        </Typography>
        <Typography variant="h1">{first ? 'Your first account' : 'A new account'}</Typography>
        <Typography sx={{ mt: 0.75, mb: 3, fontSize: sizes.sentence }}>
          An account holds one seller’s campaigns in one marketplace, with goals, changes and figures of its
          own.
        </Typography>
        <Box
          component="form"
          noValidate
          onSubmit={(event) => void form.handleSubmit(make)(event)}
          sx={{
            bgcolor: 'background.paper',
            borderTop: 1,
            borderBottom: 1,
            borderColor: 'divider',
            px: 3,
            py: 1,
          }}
        >
          <Line
            label="Name"
            name="name"
            error={errors.name?.message}
            hint="As you call it; you can change it."
          >
            <Field
              id="name"
              autoFocus
              autoComplete="off"
              maxLength={80}
              style={{ width: 280 }}
              aria-invalid={errors.name !== undefined}
              {...register('name', { validate: (text) => text.trim() !== '' || 'The account needs a name.' })}
            />
          </Line>
          <Line
            label="Figures come from"
            name="source-files"
            hint={
              source === 'files'
                ? 'You load reports, and carry changes over as a file. Nothing leaves this machine.'
                : 'Reports are fetched, and changes are sent, when you say so. Currency and time zone are the marketplace’s.'
            }
          >
            <Box
              role="radiogroup"
              aria-label="Figures come from"
              sx={{
                display: 'flex',
                gap: 2.5,
                typography: 'body2',
                accentColor: (theme) => theme.palette.primary.main,
              }}
            >
              <label>
                <input id="source-files" type="radio" value="files" {...register('source')} /> files that I
                bring
              </label>
              <label>
                <input type="radio" value="marketplace" {...register('source')} /> a marketplace
              </label>
            </Box>
          </Line>
          {source === 'marketplace' && (
            <>
              <Line
                label="Address"
                name="address"
                error={errors.address?.message}
                hint="Of Quayside; empty for the one that this installation knows."
              >
                <Field
                  id="address"
                  placeholder="http://127.0.0.1:4400"
                  autoComplete="off"
                  style={{ width: 280 }}
                  aria-invalid={errors.address !== undefined}
                  {...register('address')}
                />
              </Line>
              <Line
                label="Secret"
                name="secret"
                hint="Kept in this installation’s database, and shown to nobody again."
              >
                <Field
                  id="secret"
                  type="password"
                  autoComplete="off"
                  style={{ width: 280 }}
                  {...register('secret')}
                />
              </Line>
            </>
          )}
          {source === 'files' && (
            <>
              <Line label="Currency" name="currency" error={errors.currency?.message}>
                <Field id="currency" list="currencies" style={{ width: 90 }} {...register('currency')} />
              </Line>
              <Line
                label="Time zone"
                name="timeZone"
                error={errors.timeZone?.message}
                hint="Of the marketplace: its days begin there."
              >
                <Field id="timeZone" list="zones" style={{ width: 200 }} {...register('timeZone')} />
              </Line>
            </>
          )}
          <Line
            label="Target ACOS"
            name="targetAcos"
            error={errors.targetAcos?.message}
            hint="What ads may cost as a share of their sales. Products and campaigns can have their own in Goals."
          >
            <Field
              id="targetAcos"
              inputMode="decimal"
              style={{ width: 64 }}
              aria-invalid={errors.targetAcos !== undefined}
              {...register('targetAcos', {
                validate: (text) => {
                  const value = Number(text.replace(',', '.').replace('%', ''));
                  return (value >= 0.1 && value <= 500) || 'A target lies between 0.1 and 500 %.';
                },
              })}
            />{' '}
            %
          </Line>
          <KnownValues />
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, py: 2 }}>
            <Button type="submit" variant="contained" disabled={isSubmitting || isSubmitSuccessful}>
              {isSubmitting ? 'Making the account' : 'Make the account'}
            </Button>
            {!first && known.data && (
              <Link href="/" variant="body2">
                Back to {known.data.accounts[0]!.name}
              </Link>
            )}
          </Box>
          {problem && (
            <Typography role="alert" color="error" variant="body2" sx={{ pb: 2 }}>
              {problem}
            </Typography>
          )}
        </Box>
        <Typography variant="body2" color="text.secondary" sx={{ mt: 2 }}>
          Then load a report: search terms or targets by day are the ones to begin with. What Mowing finds in
          them waits in Round.
        </Typography>
      </Box>
    </Box>
  );
}
