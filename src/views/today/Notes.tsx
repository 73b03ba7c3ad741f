import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState, type FormEvent } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { Note } from '../../answers/today.ts';
import { addDays, type Day } from '../../core/metrics/days.ts';
import { get } from '../../ui/api.ts';
import { longDay, shortDay } from '../../ui/days.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { DeleteIcon } from '../../ui/icons.tsx';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { Section } from './Section.tsx';

interface NotesProps {
  notes: readonly Note[];
  today: Day;
  products: readonly { sku: string; title: string }[];
}

/** So far back notes are searched. */
const searchedDays = 1800;
/** So many notes are shown at once. */
const shown = 8;

/** What happened, in one's own words: on a day or from one to another, of the account or a product. */
export function Notes({ notes, today, products }: NotesProps) {
  const { addNote, removeNote } = useAct();
  const [text, setText] = useUrlState('note');
  const [isOpen, setOpen] = useState(false);
  const [about, setAbout] = useState('');
  const [day, setDay] = useState(today);
  const [toDay, setToDay] = useState('');
  const body = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (isOpen) body.current?.focus();
  }, [isOpen]);
  useHotkeys('n', () => setOpen(true), { preventDefault: true });
  const searched = useQuery({
    queryKey: ['notes', text, today],
    queryFn: () =>
      get<Note[]>(
        `/api/notes?from=${addDays(today, -searchedDays)}&to=${today}&q=${encodeURIComponent(text ?? '')}`,
      ),
    enabled: Boolean(text),
  });
  const put = (event: FormEvent) => {
    event.preventDefault();
    const said = body.current!.value.trim();
    if (said === '' || day === '') return;
    void addNote({
      day,
      toDay: toDay === '' || toDay < day ? day : toDay,
      scope: about === '' ? 'account' : 'product',
      object: about,
      body: said,
    }).then((done) => done && setOpen(false));
  };
  const list = text ? (searched.data ?? []) : notes;
  return (
    <Section
      title="Notes"
      aside={
        <>
          <Field
            type="search"
            aria-label="Find a note"
            placeholder="Find"
            value={text ?? ''}
            onChange={({ target }) => setText(target.value || null)}
            style={{ width: 84, height: 24 }}
          />
          <Button size="small" onClick={() => setOpen(!isOpen)}>
            Add
          </Button>
        </>
      }
    >
      {isOpen && (
        <Box component="form" onSubmit={put} sx={{ display: 'grid', gap: 0.75, pb: 1 }}>
          <Field
            ref={body}
            aria-label="What happened"
            placeholder="Price up, promotion, out of stock …"
            maxLength={500}
            onKeyDown={(event) => event.key === 'Escape' && setOpen(false)}
          />
          <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap', alignItems: 'center' }}>
            <Field
              type="date"
              aria-label="From"
              value={day}
              max={today}
              onChange={({ target }) => setDay(target.value)}
            />
            <Field
              type="date"
              aria-label="To, where it lasted"
              value={toDay}
              min={day}
              onChange={({ target }) => setToDay(target.value)}
            />
            <Choice aria-label="About" value={about} onChange={({ target }) => setAbout(target.value)}>
              <option value="">the account</option>
              {products.map(({ sku, title }) => (
                <option key={sku} value={sku}>
                  {sku} {title}
                </option>
              ))}
            </Choice>
            <Button type="submit" size="small" variant="contained">
              Note it
            </Button>
          </Box>
        </Box>
      )}
      {list.length === 0 ? (
        <span className="soft">
          {text
            ? 'No note holds these words.'
            : 'None in these days. n notes what happened: it stands on the strip.'}
        </span>
      ) : (
        list.slice(0, shown).map((note) => (
          <Box
            key={note.noteId}
            sx={{ display: 'flex', gap: 1, alignItems: 'baseline', fontSize: sizes.table }}
          >
            <span className="soft" style={{ whiteSpace: 'nowrap' }} title={longDay(note.day)}>
              {shortDay(note.day)}
              {note.toDay !== note.day && `–${shortDay(note.toDay)}`}
            </span>
            <span style={{ flex: 1, overflowWrap: 'anywhere' }}>
              {note.body}
              {note.scope !== 'account' && <span className="soft"> · {note.name}</span>}
            </span>
            <IconButton
              size="small"
              aria-label={`Remove the note “${note.body}”`}
              onClick={() => void removeNote(note)}
            >
              <DeleteIcon fontSize="inherit" />
            </IconButton>
          </Box>
        ))
      )}
    </Section>
  );
}
