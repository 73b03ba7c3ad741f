-- Every key starts with account_id. Money: bigint micros. Days: date, in the account's time zone. Instants: timestamptz.

create table account (
  account_id bigint primary key,
  name text not null,
  currency text not null,
  time_zone text not null,
  source text not null,
  today date,
  limits jsonb not null default '{}',
  structure_version integer,
  -- Grows with every import, so that findings know when they are stale.
  data_version bigint not null default 0,
  goals_version bigint not null default 0
);

create table product (
  account_id bigint not null references account,
  sku text not null,
  item_code text not null,
  title text not null,
  category text,
  price bigint not null,
  unit_cost bigint,
  fee_rate double precision,
  fee_fixed bigint,
  shipping bigint,
  refund_rate double precision,
  rating double precision,
  stock integer,
  primary key (account_id, sku)
);

create table campaign (
  account_id bigint not null references account,
  campaign_id bigint generated always as identity,
  ext_id text,
  name text not null,
  kind text not null default 'manual',
  daily_budget bigint,
  strategy text,
  start_date date,
  end_date date,
  status text not null default 'enabled',
  budget_group text,
  primary key (account_id, campaign_id)
);
create unique index campaign_ext on campaign (account_id, ext_id);
create index campaign_name on campaign (account_id, name);

create table placement_modifier (
  account_id bigint not null,
  campaign_id bigint not null,
  placement text not null,
  modifier double precision not null,
  primary key (account_id, campaign_id, placement)
);

create table ad_group (
  account_id bigint not null references account,
  ad_group_id bigint generated always as identity,
  campaign_id bigint not null,
  ext_id text,
  name text not null,
  default_bid bigint,
  status text not null default 'enabled',
  primary key (account_id, ad_group_id)
);
create unique index ad_group_ext on ad_group (account_id, ext_id);
create index ad_group_name on ad_group (account_id, campaign_id, name);

create table product_ad (
  account_id bigint not null,
  ad_group_id bigint not null,
  sku text not null,
  status text not null default 'enabled',
  primary key (account_id, ad_group_id, sku)
);

create table target (
  account_id bigint not null references account,
  target_id bigint generated always as identity,
  ad_group_id bigint not null,
  ext_id text,
  kind text not null default 'keyword',
  match_type text,
  expression text not null,
  bid bigint,
  status text not null default 'enabled',
  bid_changed_on date,
  primary key (account_id, target_id)
);
create unique index target_ext on target (account_id, ext_id);
create index target_path on target (account_id, ad_group_id, expression);

create table target_bid (
  account_id bigint not null,
  target_id bigint not null,
  day date not null,
  bid bigint not null,
  primary key (account_id, target_id, day)
);

create table negative (
  account_id bigint not null references account,
  negative_id bigint generated always as identity,
  campaign_id bigint not null,
  ad_group_id bigint,
  ext_id text,
  match_type text not null,
  expression text not null,
  status text not null default 'enabled',
  primary key (account_id, negative_id)
);
create unique index negative_ext on negative (account_id, ext_id);

create table term (
  account_id bigint not null,
  term_id bigint generated always as identity,
  text text not null,
  primary key (account_id, term_id)
);
create unique index term_text on term (account_id, text);

-- Facts, partitioned by month; the importer makes the partitions it needs and replaces whole days.
create table target_day (
  account_id bigint not null,
  day date not null,
  target_id bigint not null,
  impressions integer not null,
  clicks integer not null,
  spend bigint not null,
  orders integer not null,
  units integer not null,
  sales bigint not null
) partition by range (day);
create index target_day_day on target_day (account_id, day);

create table term_day (
  account_id bigint not null,
  day date not null,
  target_id bigint not null,
  term_id bigint not null,
  impressions integer not null,
  clicks integer not null,
  spend bigint not null,
  orders integer not null,
  units integer not null,
  sales bigint not null
) partition by range (day);
create index term_day_day on term_day (account_id, day);

create table placement_day (
  account_id bigint not null,
  day date not null,
  campaign_id bigint not null,
  placement text not null,
  impressions integer not null,
  clicks integer not null,
  spend bigint not null,
  orders integer not null,
  units integer not null,
  sales bigint not null
) partition by range (day);
create index placement_day_day on placement_day (account_id, day);

create table product_day (
  account_id bigint not null,
  day date not null,
  sku text not null,
  sessions integer not null,
  total_orders integer not null,
  total_units integer not null,
  total_sales bigint not null
) partition by range (day);
create index product_day_day on product_day (account_id, day);

create function ensure_month(fact text, month date) returns void language plpgsql as $$
begin
  execute format('create table if not exists %I partition of %I for values from (%L) to (%L)',
    fact || '_' || to_char(month, 'YYYY_MM'), fact, month, month + interval '1 month');
end $$;

-- Which day was told by which report, and how much was known at what age: the base of maturity.
create table report_day (
  account_id bigint not null,
  kind text not null,
  day date not null,
  as_of date not null,
  loaded_at timestamptz not null,
  rows integer not null,
  primary key (account_id, kind, day)
);
create table day_sight (
  account_id bigint not null,
  kind text not null,
  day date not null,
  age integer not null,
  orders integer not null,
  primary key (account_id, kind, day, age)
);

create table import (
  account_id bigint not null,
  import_id bigint generated always as identity,
  job_id uuid,
  source text not null,
  kind text not null,
  file_name text not null,
  state text not null,
  rows_read bigint not null default 0,
  rows_loaded bigint not null default 0,
  rows_rejected bigint not null default 0,
  rows_totals bigint not null default 0,
  first_day date,
  last_day date,
  days_replaced integer not null default 0,
  message text,
  rejected_file text,
  finished_at timestamptz not null,
  primary key (account_id, import_id)
);
create table upload (
  account_id bigint not null,
  upload_id uuid not null,
  file_name text not null,
  path text not null,
  bytes bigint not null,
  created_at timestamptz not null,
  primary key (account_id, upload_id)
);
create table mapping (
  account_id bigint not null,
  kind text not null,
  headers text not null,
  choices jsonb not null,
  primary key (account_id, kind, headers)
);

create table goal (
  account_id bigint not null,
  scope text not null,
  key text not null,
  target_acos double precision not null check (target_acos > 0 and target_acos <= 5),
  bid_floor bigint,
  bid_ceiling bigint,
  primary key (account_id, scope, key)
);
create table theta (
  account_id bigint not null,
  scope text not null,
  key text not null,
  day date not null,
  theta double precision not null,
  target_acos double precision not null,
  reason text not null,
  primary key (account_id, scope, key, day)
);

create table decision (
  account_id bigint not null,
  finding_key text not null,
  decision text not null check (decision in ('skipped', 'later')),
  until date,
  decided_at timestamptz not null,
  primary key (account_id, finding_key)
);

create table sheet (
  account_id bigint not null,
  sheet_id bigint generated always as identity,
  state text not null check (state in ('open', 'sending', 'sent')),
  created_at timestamptz not null,
  sent_at timestamptz,
  sent_on date,
  reverts bigint,
  primary key (account_id, sheet_id)
);
create unique index sheet_open on sheet (account_id) where state = 'open';

create table line (
  account_id bigint not null,
  line_id bigint generated always as identity,
  sheet_id bigint not null,
  group_key text not null,
  finding_key text,
  action text not null,
  entity text not null,
  object_id text,
  campaign_id text not null,
  ad_group_id text,
  field text not null,
  old_value text,
  new_value text,
  target_kind text,
  match_type text,
  expression text,
  reason text not null,
  proposed_by text not null,
  effect jsonb,
  conflict_key text not null,
  state text not null default 'open' check (state in ('open', 'removed', 'sending', 'applied', 'refused')),
  code text,
  message text,
  live_value text,
  batch_id uuid,
  reverts bigint,
  created_at timestamptz not null,
  primary key (account_id, line_id)
);
create index line_sheet on line (account_id, sheet_id);
create index line_conflict on line (account_id, sheet_id, conflict_key);

create table batch (
  account_id bigint not null,
  batch_id uuid not null,
  sheet_id bigint not null,
  position integer not null,
  body jsonb not null,
  answered_at timestamptz,
  primary key (account_id, batch_id)
);

create table job (
  account_id bigint not null,
  job_id uuid not null,
  kind text not null,
  payload jsonb not null,
  state text not null check (state in ('waiting', 'running', 'done', 'failed', 'cancelled')),
  progress jsonb not null default '{}',
  result jsonb,
  message text,
  created_at timestamptz not null,
  finished_at timestamptz,
  primary key (account_id, job_id)
);

create table answered_call (
  account_id bigint not null,
  idempotency_key text not null,
  call text not null,
  digest text not null,
  status integer,
  body jsonb,
  made_at timestamptz not null,
  primary key (account_id, idempotency_key)
);
