import { DeleteIcon } from '../../ui/icons.tsx';
import { levelNames } from '../../core/account/levels.ts';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Divider from '@mui/material/Divider';
import IconButton from '@mui/material/IconButton';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useState } from 'react';
import type { Slice, SliceBody } from '../../core/explore/slices.ts';
import { get, send } from '../../ui/api.ts';
import { applySlice } from './state.ts';

/** Slices: chosen from a menu, saved under a name, shared by all who work in the account. */
export function Slices({ body }: { body: SliceBody }) {
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [name, setName] = useState<string | null>(null);
  const slices = useQuery({ queryKey: ['slices'], queryFn: () => get<Slice[]>('/api/explore/slices') });
  const done = (message: string) => {
    enqueueSnackbar(message);
    void queries.invalidateQueries({ queryKey: ['slices'] });
  };
  const failed = (error: Error) => enqueueSnackbar(error.message, { variant: 'error' });
  const save = async () => {
    try {
      await send('POST', '/api/explore/slices', { name, body });
      setName(null);
      done(`“${name}” is saved.`);
    } catch (error) {
      failed(error as Error);
    }
  };
  const remove = (slice: Slice) =>
    void send('DELETE', `/api/explore/slices/${slice.id}`).then(
      () => done(`“${slice.name}” is gone.`),
      failed,
    );
  const list = slices.data ?? [];
  const item = (slice: Slice) => (
    <MenuItem
      key={slice.id}
      dense
      onClick={() => {
        setAnchor(null);
        applySlice(slice.body);
      }}
    >
      <ListItemText primary={slice.name} secondary={levelNames[slice.body.level].many} />
      {!slice.shipped && (
        <IconButton
          size="small"
          aria-label={`Remove ${slice.name}`}
          onClick={(event) => {
            event.stopPropagation();
            remove(slice);
          }}
        >
          <DeleteIcon fontSize="small" />
        </IconButton>
      )}
    </MenuItem>
  );
  return (
    <>
      <Button size="small" onClick={(event) => setAnchor(event.currentTarget)}>
        Slices
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {list.filter(({ shipped }) => !shipped).map(item)}
        {list.some(({ shipped }) => !shipped) && <Divider />}
        {list.filter(({ shipped }) => shipped).map(item)}
        <Divider />
        <MenuItem
          dense
          onClick={() => {
            setAnchor(null);
            setName('');
          }}
        >
          Save this as a slice
        </MenuItem>
      </Menu>
      <Dialog
        open={name !== null}
        onClose={() => setName(null)}
        onKeyDown={(event) => event.stopPropagation()}
      >
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void save();
          }}
        >
          <DialogTitle>Save as a slice</DialogTitle>
          <DialogContent>
            <TextField
              autoFocus
              size="small"
              label="Name"
              value={name ?? ''}
              onChange={(event) => setName(event.target.value)}
              helperText="Level, columns, conditions and sorting. Everybody in the account sees it."
              sx={{ width: 340, mt: 1 }}
            />
          </DialogContent>
          <DialogActions>
            <Button onClick={() => setName(null)}>Cancel</Button>
            <Button type="submit" variant="contained" disabled={!name?.trim()}>
              Save
            </Button>
          </DialogActions>
        </form>
      </Dialog>
    </>
  );
}
