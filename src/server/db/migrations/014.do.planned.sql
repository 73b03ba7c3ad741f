-- Campaigns and ad groups that lines of a sheet make: they have their numbers from here on, and become rows of their own
-- tables once the marketplace has made them. `settings`: what is told beside the budget or bid, which the line says.
create table planned (
  account_id bigint not null references account,
  entity text not null check (entity in ('campaign', 'ad_group')),
  object_id bigint not null,
  campaign_id bigint not null,
  name text not null,
  settings jsonb not null,
  primary key (account_id, entity, object_id)
);
-- What the marketplace called what a line made.
alter table line add column made_ext text;
create index line_places on line (account_id, sheet_id, campaign_id) where action = 'create' and entity in ('campaign', 'ad_group');

-- Recipes of an account's own, and kits: drafts that keep themselves.
create table recipe (
  account_id bigint not null references account,
  name text not null,
  body jsonb not null,
  primary key (account_id, name)
);
create table kit (
  account_id bigint not null references account,
  kit_id uuid not null,
  body jsonb not null,
  -- Counts the edits: an edit names the one that it saw.
  version integer not null default 1,
  -- The group of its lines, once they are on a sheet.
  group_key text,
  changed_at timestamptz not null default now(),
  primary key (account_id, kit_id)
);
