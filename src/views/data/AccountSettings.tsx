import type { SettingsAnswer } from '../../answers/account.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ApiError, get, send } from '../../ui/api.ts';
import { Field } from '../../ui/parts/fields.tsx';
import { KnownValues, Line } from '../account/parts.tsx';

type Values = Pick<SettingsAnswer, 'name' | 'currency' | 'timeZone'>;

/** What the account is called and reckons in; the way to take it away. */
export function AccountSettings() {
  const settings = useQuery({
    queryKey: ['settings'],
    queryFn: () => get<SettingsAnswer>('/api/settings'),
  });
  if (!settings.data) return null;
  const { source, name, currency, timeZone } = settings.data;
  return (
    <Box component="section" aria-label="Account" sx={{ maxWidth: 660, px: 2.25, pt: 1, pb: 3 }}>
      <Typography variant="body2" component="h2" sx={{ fontWeight: 700 }}>
        The account
      </Typography>
      <SettingsForm known={{ name, currency, timeZone }} source={source} />
      <Removal name={name} />
    </Box>
  );
}

function SettingsForm({ known, source }: { known: Values; source: string }) {
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const { register, handleSubmit, setError, reset, formState } = useForm<Values>({ values: known });
  const { errors, isDirty, isSubmitting } = formState;
  const told = source !== 'files';
  const save = async (values: Values) => {
    try {
      await send('PUT', '/api/settings', values);
      reset(values);
      enqueueSnackbar('The account is changed.');
      void queries.invalidateQueries();
    } catch (error) {
      const field = error instanceof ApiError && error.field && error.field in values ? error.field : 'name';
      setError(field as keyof Values, { message: (error as Error).message }, { shouldFocus: true });
    }
  };
  return (
    <form noValidate onSubmit={(event) => void handleSubmit(save)(event)}>
      <Line label="Name" name="name" error={errors.name?.message}>
        <Field
          id="name"
          maxLength={80}
          style={{ width: 280 }}
          {...register('name', { validate: (text) => text.trim() !== '' || 'The account needs a name.' })}
        />
      </Line>
      <Line
        label="Currency"
        name="currency"
        error={errors.currency?.message}
        {...(told ? { hint: `As ${source} tells.` } : {})}
      >
        <Field
          id="currency"
          list="currencies"
          readOnly={told}
          style={{ width: 90 }}
          {...register('currency')}
        />
      </Line>
      <Line label="Time zone" name="timeZone" error={errors.timeZone?.message}>
        <Field id="timeZone" list="zones" readOnly={told} style={{ width: 200 }} {...register('timeZone')} />
      </Line>
      <KnownValues />
      <Button type="submit" variant="outlined" disabled={!isDirty || isSubmitting} sx={{ mt: 1.5 }}>
        Keep these
      </Button>
    </form>
  );
}

/** Removing asks for the name, says what goes, and offers the export first. */
function Removal({ name }: { name: string }) {
  const { enqueueSnackbar } = useSnackbar();
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const [busy, setBusy] = useState(false);
  const remove = async () => {
    setBusy(true);
    try {
      await send('DELETE', '/api/settings', { name: text });
      window.location.assign('/');
    } catch (error) {
      enqueueSnackbar((error as Error).message, { variant: 'error' });
      setBusy(false);
    }
  };
  if (!open)
    return (
      <Button size="small" sx={{ mt: 2 }} color="error" onClick={() => setOpen(true)}>
        Remove this account
      </Button>
    );
  return (
    <Box sx={{ mt: 2, pt: 1.5, borderTop: 1, borderColor: 'error.main' }}>
      <Typography variant="body2" sx={{ mb: 1 }}>
        Its figures, goals, sheets and ledger go with it, and cannot be brought back. <b>Export everything</b>{' '}
        above keeps them as a package. To remove it, write its name: {name}
      </Typography>
      <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center' }}>
        <Field
          aria-label="Name of the account to remove"
          value={text}
          onChange={(event) => setText(event.target.value)}
          style={{ width: 220 }}
        />
        <Button
          variant="contained"
          color="error"
          disabled={text !== name || busy}
          onClick={() => void remove()}
        >
          Remove “{name}”
        </Button>
        <Button onClick={() => setOpen(false)}>Keep it</Button>
      </Box>
    </Box>
  );
}
