-- Budgets for all days of a campaign together, how they are parted over the days, and rules that choose products.
alter table campaign add column lifetime_budget bigint, add column pacing text;
alter table ad_group add column rule jsonb, add column related_categories boolean not null default false;

-- What an ad group shows: pictures and titles as the marketplace knows them, and pairs of both that are left out.
create table creative (
  account_id bigint not null references account,
  creative_id bigint generated always as identity,
  ad_group_id bigint not null,
  ext_id text not null,
  kind text not null check (kind in ('picture', 'title', 'left_out')),
  value text not null,
  status text not null default 'enabled',
  primary key (account_id, creative_id),
  unique (account_id, ext_id)
);

-- Files of pictures by what they hold. `ext_id`: what the marketplace called it once it was sent there.
create table picture (
  account_id bigint not null references account,
  picture_id text not null,
  name text not null,
  type text not null check (type in ('image/png', 'image/jpeg')),
  bytes bytea not null,
  ext_id text,
  primary key (account_id, picture_id)
);

-- Which products joined an ad group whose rule chooses them, and which left it, as structures that were read told it.
create table collection_change (
  account_id bigint not null references account,
  ad_group_id bigint not null,
  sku text not null,
  day date not null,
  joined boolean not null,
  primary key (account_id, ad_group_id, sku, day)
);

-- What is changed of a part by hand is its budget of either kind.
update kit set body = replace(body::text, '"dailyBudget":', '"budget":')::jsonb;
