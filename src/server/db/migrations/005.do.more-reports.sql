-- What campaigns did hour by hour, and where products stood for keywords. Partitioned as the other facts are.
create table campaign_hour (
  account_id bigint not null,
  day date not null,
  hour smallint not null,
  campaign_id bigint not null,
  impressions integer not null,
  clicks integer not null,
  spend bigint not null,
  orders integer not null,
  units integer not null,
  sales bigint not null,
  minutes_in_budget smallint
) partition by range (day);
create index campaign_hour_day on campaign_hour (account_id, day);

create table rank_day (
  account_id bigint not null,
  day date not null,
  sku text not null,
  keyword text not null,
  organic_rank integer,
  sponsored_rank integer,
  search_volume integer
) partition by range (day);
create index rank_day_day on rank_day (account_id, day);

-- Sums over a span of days that were told without their days. They count in windows that hold the whole span, where no
-- report told these days one by one.
create table summary (
  account_id bigint not null,
  kind text not null check (kind in ('targets-daily', 'terms-daily', 'placements-daily')),
  first_day date not null,
  last_day date not null,
  campaign_id bigint,
  placement text,
  target_id bigint,
  term_id bigint,
  impressions integer not null,
  clicks integer not null,
  spend bigint not null,
  orders integer not null,
  units integer not null,
  sales bigint not null
);
create index summary_span on summary (account_id, kind, first_day, last_day);

alter table product add column brand text;

-- The number of a sheet in the file it came from; null for one that was made here.
alter table sheet add column loaded_as text;

-- Summaries that count: those whose days no report of their kind told. The day in the middle stands for all of them where
-- a weight by day is asked for.
create view counted_summary as
  select s.*, s.first_day + (s.last_day - s.first_day) / 2 as day from summary s
  where not exists (
    select 1 from report_day r
    where r.account_id = s.account_id and r.kind = s.kind and r.day between s.first_day and s.last_day);
