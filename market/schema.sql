-- Quayside's own state. Money here is numeric in the account's currency, as the marketplace's books keep it.
create table if not exists world (
  only_one boolean primary key default true check (only_one),
  scenario jsonb not null,
  today date,
  version integer not null default 1,
  memory jsonb
);
-- What a day that is still being lived needs to go on; null between two days.
alter table world add column if not exists half jsonb;
create table if not exists token (token text primary key, expires_at timestamptz not null);
create table if not exists object (
  kind text not null,
  id text not null,
  body jsonb not null,
  primary key (kind, id)
);
create sequence if not exists object_number start 100000;
create table if not exists ad_day (
  day date not null,
  target_id text not null,
  term text not null,
  placement smallint not null,
  impressions integer not null,
  clicks integer not null,
  spend numeric not null
);
create index if not exists ad_day_day on ad_day (day);
create table if not exists ad_order (
  day date not null,
  hour smallint not null,
  target_id text not null,
  term text not null,
  placement smallint not null,
  sku text not null,
  units integer not null,
  sales numeric not null,
  known_on date not null
);
create index if not exists ad_order_day on ad_order (day);
create table if not exists campaign_hour (
  day date not null,
  hour smallint not null,
  campaign_id text not null,
  impressions integer not null,
  clicks integer not null,
  spend numeric not null,
  minutes integer not null
);
create index if not exists campaign_hour_day on campaign_hour (day);
create table if not exists product_day (
  day date not null,
  sku text not null,
  sessions integer not null,
  organic_orders integer not null,
  organic_units integer not null,
  organic_sales numeric not null
);
alter table ad_order add column if not exists ad_group_id text;
alter table ad_order add column if not exists picture text;
alter table ad_order add column if not exists title text;
create table if not exists creative_day (
  day date not null,
  ad_group_id text not null,
  picture text not null,
  title text not null,
  impressions integer not null,
  clicks integer not null,
  spend numeric not null
);
create table if not exists collection_day (
  day date not null,
  ad_group_id text not null,
  sku text not null,
  change text not null
);
create table if not exists rank_day (
  day date not null,
  sku text not null,
  keyword text not null,
  organic_rank integer,
  sponsored_rank integer,
  search_volume integer not null
);
create index if not exists rank_day_day on rank_day (day);
create table if not exists picture (id text primary key, type text not null, bytes bytea not null);
create table if not exists report (
  id text primary key,
  kind text not null,
  from_day date not null,
  to_day date not null,
  as_of date not null,
  state text not null
);
create table if not exists change_batch (
  idempotency_key text primary key,
  digest text not null,
  answer jsonb not null,
  applied_on date not null
);
