-- Counts the changes of a sheet and its lines: what was read of it is known by this.
alter table sheet add column version bigint not null default 1;

-- When a line was last written, in the order in which changes of its sheet stand: whoever knows a sheet reads what is
-- new since. Changes of one sheet take turns by its lock, so that later ones have larger numbers.
create sequence line_written;
alter table line add column written bigint not null default 0;
create function mark_written() returns trigger language plpgsql as $$
begin
  new.written := nextval('line_written');
  return new;
end $$;
create trigger line_written before insert or update on line for each row execute function mark_written();
create index line_sheet_written on line (account_id, sheet_id, written);
drop index line_sheet;

-- What conflicts on a sheet is read from here without the lines themselves.
drop index line_conflict;
create index line_open_conflict on line (account_id, sheet_id, conflict_key) where state = 'open';
