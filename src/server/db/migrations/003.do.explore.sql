create table budget_group (
  account_id bigint not null references account,
  ext_id text not null,
  name text not null,
  daily_budget bigint,
  primary key (account_id, ext_id)
);

-- A saved way to look at a table: level, columns, conditions, sorting. Shared by all who work in the account.
create table slice (
  account_id bigint not null references account,
  slice_id bigint generated always as identity,
  name text not null,
  body jsonb not null,
  updated_at timestamptz not null,
  primary key (account_id, slice_id)
);
create unique index slice_name on slice (account_id, lower(name));
