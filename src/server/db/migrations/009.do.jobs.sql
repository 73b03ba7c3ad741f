-- A job that runs is held by a server that says so every few seconds; how often it was begun is counted.
alter table job add holder uuid;
alter table job add beat_at timestamptz;
alter table job add starts integer not null default 0;

-- Jobs by what is left of them: the sweep looks every few seconds.
create index job_unfinished on job (state) where state in ('waiting', 'running');

-- Calls that were begun and never answered by an older release: their keys were stuck.
delete from answered_call where status is null;
alter table answered_call alter status set not null;
create index answered_call_made_at on answered_call (made_at);
