-- A day's facts as columns of bytes, so that sums over a season are read at the speed of the wire. Made from the raw days
-- after a load; the importer takes a block away in the transaction that replaces its day.
create table day_block (
  account_id bigint not null,
  fact text not null check (fact in ('target_day', 'term_day')),
  day date not null,
  rows integer not null,
  body bytea not null,
  primary key (account_id, fact, day)
);
-- Stored as it is: parts of it are read by their place.
alter table day_block alter column body set storage external;
