import Button from '@mui/material/Button';
import { useEffect, useRef, useState, type RefObject } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { setUrl, useUrlState } from '../hooks/useUrlState.ts';
import { Choice, Field } from '../parts/fields.tsx';
import type { AddressProblem } from '../shell/AddressNote.tsx';

interface SearchFieldProps {
  /** The parameter of the address that keeps it. */
  param?: string;
  label: string;
  placeholder: string;
  width?: number;
  /** ms without typing before the address follows, where each change asks the server. */
  wait?: number;
}

/** Filters a list by text; `/` goes there, Enter and Escape lead back. */
export function SearchField({ param = 'q', label, placeholder, width = 150, wait = 0 }: SearchFieldProps) {
  const field = useRef<HTMLInputElement>(null);
  const [kept, setKept] = useUrlState(param);
  const [text, setText] = useState(kept ?? '');
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => setText(kept ?? ''), [kept]);
  useEffect(() => () => clearTimeout(timer.current), []);
  const put = (next: string, after: number) => {
    setText(next);
    clearTimeout(timer.current);
    if (after === 0) setKept(next);
    else timer.current = setTimeout(() => setKept(next), after);
  };
  useHotkeys('slash', (event) => (event.preventDefault(), field.current?.select()));
  return (
    <SearchInput
      input={field}
      label={label}
      placeholder={placeholder}
      value={text}
      width={width}
      onText={(next) => put(next, wait)}
      onDone={(next) => put(next, 0)}
    />
  );
}

interface SearchInputProps {
  input: RefObject<HTMLInputElement | null>;
  label: string;
  placeholder: string;
  value: string;
  width?: number;
  onText: (text: string) => void;
  /** Enter or Escape was pressed. */
  onDone?: (text: string) => void;
}

/** The field itself, for lists whose text stands elsewhere than in a parameter of its own. */
export const SearchInput = ({
  input,
  label,
  placeholder,
  value,
  width = 150,
  onText,
  onDone,
}: SearchInputProps) => (
  <Field
    ref={input}
    type="search"
    aria-label={label}
    placeholder={`${placeholder}  /`}
    value={value}
    onChange={(event) => onText(event.target.value)}
    onKeyDown={(event) => {
      if (event.key !== 'Escape' && event.key !== 'Enter') return;
      onDone?.(event.currentTarget.value);
      event.currentTarget.blur();
    }}
    style={{ width }}
  />
);

interface FilterProps {
  param: string;
  /** What is chosen among: "product". */
  label: string;
  options: readonly (readonly [string, string])[];
  /** What no choice is called, and that there may be none: "any product". */
  none?: string;
  /** What is chosen while the address says nothing. */
  usual?: string;
  /** px at most. */
  width?: number;
  push?: boolean;
}

/** One of several, kept in the address. As wide as what is chosen; what differs from the usual stands out. */
export function Filter({ param, label, options, none, usual = '', width = 200, push = false }: FilterProps) {
  const [kept, setKept] = useUrlState(param, push);
  const known = kept !== null && options.some(([id]) => id === kept) ? kept : usual;
  return (
    <Choice
      aria-label={label}
      title={label}
      value={known}
      onChange={(event) => setKept(event.target.value === usual ? null : event.target.value)}
      style={{ maxWidth: width, fontWeight: known === usual ? 400 : 700 }}
      sx={{ fieldSizing: 'content' }}
    >
      {none !== undefined && <option value="">{none}</option>}
      {options.map(([id, text]) => (
        <option key={id} value={id}>
          {text}
        </option>
      ))}
    </Choice>
  );
}

/** Takes filters off the address. */
export const ClearFilters = ({ params }: { params: readonly string[] }) => (
  <Button size="small" onClick={() => setUrl(Object.fromEntries(params.map((name) => [name, null])))}>
    Clear
  </Button>
);

/** Order of a list as the address keeps it: `-spend`; the usual one is left out of it. */
export function useSort<Name extends string>(
  names: readonly Name[],
  usual: Name,
  text: readonly Name[] = [],
) {
  const [kept] = useUrlState('sort');
  const name = names.find((one) => one === kept?.replace(/^-/, ''));
  const sort = name ?? usual;
  const descending = name === undefined || kept!.startsWith('-');
  const onSort = (id: string) => {
    const down = id === sort ? !descending : !text.some((one) => one === id);
    setUrl({ sort: id === usual && down ? null : `${down ? '-' : ''}${id}` });
  };
  return { sort, descending, onSort };
}

/** What the address says of choices that there are not. `choices`: what each parameter may be. */
export function unknownChoices(
  search: string,
  choices: Readonly<Record<string, readonly string[] | null>>,
): AddressProblem[] {
  const params = new URLSearchParams(search);
  return Object.entries(choices).flatMap(([name, known]): AddressProblem[] => {
    const value = params.get(name);
    const meant = name === 'sort' ? value?.replace(/^-/, '') : value;
    if (!meant || known === null || known.includes(meant)) return [];
    const short = meant.length > 40 ? `${meant.slice(0, 40)}…` : meant;
    const few = known.length <= 8 ? ` There ${known.length === 1 ? 'is' : 'are'} ${known.join(', ')}.` : '';
    return [{ name, problem: `There is none called “${short}”.${few}` }];
  });
}
