-- What stood before a file of goals, and what it made of it, by scope: so that the file can be taken back.
alter table import add column changed jsonb, add column taken_back_at timestamptz;
