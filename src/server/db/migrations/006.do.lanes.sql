-- Where research sends its winners. An account without a saved set uses what its products and names tell.
create table lane (
  account_id bigint not null references account,
  source_id bigint not null,
  destination_id bigint not null,
  kind text not null check (kind in ('keyword', 'item')),
  match_type text check (match_type in ('broad', 'phrase', 'exact')),
  least_orders integer not null check (least_orders >= 0),
  least_clicks integer not null check (least_clicks >= 0),
  goal_share double precision not null check (goal_share > 0),
  days integer not null check (days between 1 and 90),
  first_bid text not null check (first_bid in ('evidence', 'source_cpc', 'fixed')),
  fixed_bid bigint,
  isolate text not null check (isolate in ('product', 'source', 'none')),
  primary key (account_id, source_id, kind)
);
-- The version grows with every change, so that findings know when they are stale.
alter table account add column lanes_version bigint not null default 0, add column lanes_saved boolean not null
  default false;

-- Lists of negatives under a name, kept by Mowing and put into the campaigns they are attached to.
create table negative_list (
  account_id bigint not null references account,
  list_id bigint generated always as identity,
  name text not null,
  primary key (account_id, list_id)
);
create unique index negative_list_name on negative_list (account_id, lower(name));
create table negative_list_entry (
  account_id bigint not null,
  list_id bigint not null,
  match_type text not null check (match_type in ('negative_exact', 'negative_phrase', 'negative_item')),
  expression text not null,
  primary key (account_id, list_id, match_type, expression)
);
create table negative_list_campaign (
  account_id bigint not null,
  list_id bigint not null,
  campaign_id bigint not null,
  primary key (account_id, list_id, campaign_id)
);

-- Words that belong to what is sold: never proposed as negatives.
create table relevant_words (
  account_id bigint not null references account,
  words text not null,
  primary key (account_id, words)
);
