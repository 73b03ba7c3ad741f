-- What the ads of each ad group sold, product by product. By account, then month, as the other facts are.
create table sold_day (
  account_id bigint not null,
  day date not null,
  ad_group_id bigint not null,
  sku text not null,
  orders integer not null,
  units integer not null,
  sales bigint not null
) partition by list (account_id);
create index sold_day_day on sold_day using brin (day);

create or replace function ensure_account_facts(account bigint) returns void language plpgsql as $$
declare
  fact text;
begin
  foreach fact in array array['target_day', 'term_day', 'placement_day', 'product_day', 'campaign_hour', 'rank_day', 'sold_day'] loop
    if to_regclass(fact || '_' || account) is null then
      execute format('create table %I (like %I) partition by range (day)', fact || '_' || account, fact);
      execute format('alter table %I attach partition %I for values in (%L)', fact, fact || '_' || account, account);
    end if;
  end loop;
end $$;

do $$
declare
  told record;
begin
  for told in select account_id from account loop perform ensure_account_facts(told.account_id); end loop;
end $$;
