-- Campaigns that share a total: of the account, of a product, or of a budget group of the marketplace. Micros a day.
create table budget_rule (
  account_id bigint not null references account,
  scope text not null check (scope in ('account', 'product', 'budget_group')),
  object text not null default '',
  total bigint check (total > 0),
  least bigint check (least >= 0),
  most bigint check (most >= 0),
  research_share double precision check (research_share between 0 and 1),
  research_cap bigint check (research_cap >= 0),
  -- Campaigns that began within so many days get this at least.
  grace_days integer check (grace_days between 1 and 90),
  grace_least bigint check (grace_least >= 0),
  primary key (account_id, scope, object)
);

-- What one campaign gets of a total at least and at most, beside what its rule says of all. Micros a day.
create table budget_limit (
  account_id bigint not null references account,
  campaign_id bigint not null,
  least bigint check (least >= 0),
  most bigint check (most >= 0),
  primary key (account_id, campaign_id)
);

-- What happened on a day, or from one to another, in the words of who works here: of the account, or of one object.
create table note (
  account_id bigint not null references account,
  note_id bigint generated always as identity,
  day date not null,
  to_day date not null check (to_day >= day),
  scope text not null check (scope in ('account', 'product', 'campaign')),
  object text not null default '',
  body text not null,
  made_at timestamptz not null default now(),
  -- Removed; undo brings it back.
  removed_at timestamptz,
  primary key (account_id, note_id)
);
create index note_day on note (account_id, day);

-- Weekly reports, with their figures as they stood on the day they were made.
create table report (
  account_id bigint not null references account,
  report_id bigint generated always as identity,
  first_day date not null,
  last_day date not null,
  made_on date not null,
  figures jsonb not null,
  words text not null,
  -- Removed; undo brings it back.
  removed_at timestamptz,
  primary key (account_id, report_id)
);

-- What products cost, beside what was in stock, by the days on which it was told. Micros.
alter table product_stock add column price bigint;
