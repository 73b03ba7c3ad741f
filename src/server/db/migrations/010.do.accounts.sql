-- Accounts of one's own: made by hand or by the demo, each with files only or a marketplace.
create sequence account_number;
select setval('account_number', greatest((select max(account_id) from account), 1), exists (select 1 from account));
alter table account alter account_id set default nextval('account_number');
alter table account add created_at timestamptz not null default now();
-- Gone for everybody at once; its rows follow.
alter table account add removed_at timestamptz;

-- Where an account's marketplace is reached. Address and secret left out: those of the installation.
create table connection (
  account_id bigint primary key references account,
  marketplace text not null,
  address text,
  secret text
);
insert into connection (account_id, marketplace) select account_id, lower(source) from account where source = 'Quayside';
-- What the server made by itself at its first start and nobody used.
delete from goal where account_id in (select account_id from account where source = 'files' and today is null and data_version = 0);
delete from account where source = 'files' and today is null and data_version = 0
  and not exists (select 1 from upload u where u.account_id = account.account_id);

-- Facts by account, then month: whoever reads one account's days meets nobody else's, and an account leaves as a whole.
-- Partitions are made apart and attached: that waits for no reader and no load, and none waits for it.
drop function ensure_month(text, date);

create function ensure_account_facts(account bigint) returns void language plpgsql as $$
declare
  fact text;
begin
  foreach fact in array array['target_day', 'term_day', 'placement_day', 'product_day', 'campaign_hour', 'rank_day'] loop
    if to_regclass(fact || '_' || account) is null then
      execute format('create table %I (like %I) partition by range (day)', fact || '_' || account, fact);
      execute format('alter table %I attach partition %I for values in (%L)', fact, fact || '_' || account, account);
    end if;
  end loop;
end $$;

create function ensure_month(fact text, account bigint, month date) returns void language plpgsql as $$
declare
  parent text := fact || '_' || account;
  part text := fact || '_' || account || '_' || to_char(month, 'YYYY_MM');
begin
  if to_regclass(part) is not null then return; end if;
  if to_regclass(parent) is null then perform ensure_account_facts(account); end if;
  execute format('create table %I (like %I)', part, parent);
  execute format('alter table %I attach partition %I for values from (%L) to (%L)',
    parent, part, month, month + interval '1 month');
end $$;

do $$
declare
  fact text;
  told record;
begin
  foreach fact in array array['target_day', 'term_day', 'placement_day', 'product_day', 'campaign_hour', 'rank_day'] loop
    execute format('alter table %I rename to %I', fact, fact || '_old');
    execute format('drop index %I', fact || '_day');
    execute format('create table %I (like %I) partition by list (account_id)', fact, fact || '_old');
    execute format('create index %I on %I using brin (day)', fact || '_day', fact);
  end loop;
  for told in select account_id from account loop perform ensure_account_facts(told.account_id); end loop;
  foreach fact in array array['target_day', 'term_day', 'placement_day', 'product_day', 'campaign_hour', 'rank_day'] loop
    for told in execute format('select distinct account_id, date_trunc(''month'', day)::date as month from %I', fact || '_old') loop
      perform ensure_month(fact, told.account_id, told.month);
    end loop;
    execute format('insert into %I select * from %I', fact, fact || '_old');
    execute format('drop table %I', fact || '_old');
  end loop;
end $$;

-- Which account this is, wherever a package of it goes: loading it again adds nothing to the ledger that is there.
alter table account add origin uuid not null default gen_random_uuid();
