-- Each setting of a goal by itself: what one scope leaves open, the next wider one says. Ad groups may have their own.
alter table goal alter column target_acos drop not null;
alter table goal alter column stance drop not null, alter column stance drop default;
alter table goal
  add column objective text check (objective in ('acos', 'margin', 'profit')),
  add column target_margin double precision,
  add column method text check (method in ('evidence', 'strict', 'bands', 'rpc')),
  add column ladder jsonb,
  add column guards jsonb,
  add check (scope in ('account', 'product', 'campaign', 'ad_group')),
  add check (scope <> 'account' or target_acos is not null),
  add check ((objective is distinct from 'margin') or target_margin is not null);
update goal set objective = 'acos';
alter table goal
  add check (scope <> 'account' or objective is not null),
  add check ((objective is distinct from 'acos') or target_acos is not null);
-- The account's stance was copied into every override; where it is the same it goes on coming from there.
update goal g set stance = null from goal a
where g.scope <> 'account' and a.account_id = g.account_id and a.scope = 'account' and a.stance = g.stance;

-- What a month shall bring, of the account (sku '') or of a product. Micros.
create table plan (
  account_id bigint not null references account,
  month date not null check (extract(day from month) = 1),
  sku text not null default '',
  spend bigint check (spend >= 0),
  sales bigint check (sales >= 0),
  revenue bigint check (revenue >= 0),
  primary key (account_id, month, sku)
);

-- What was changed at the marketplace and not by a sheet: structure that differs from what was last known, by the day on
-- which it was seen. Values as lines write them.
create table outside_change (
  account_id bigint not null references account,
  day date not null,
  entity text not null check (entity in ('campaign', 'ad_group', 'target', 'placement_modifier')),
  object_id bigint not null,
  field text not null,
  campaign_id bigint not null,
  ad_group_id bigint,
  old_value text,
  new_value text,
  primary key (account_id, day, entity, object_id, field)
);

-- Losses that are borne on purpose, as to hold an organic rank: of a target, or of a term in an ad group. Micros a week.
create table tolerance (
  account_id bigint not null references account,
  tolerance_id bigint generated always as identity,
  -- The key of the finding that it keeps out of the queue: target:ID:bid, or term:AD GROUP:TEXT.
  finding_key text not null,
  amount bigint not null check (amount > 0),
  reason text not null,
  until date,
  since date not null,
  primary key (account_id, tolerance_id),
  unique (account_id, finding_key)
);
