-- Block range indexes instead of trees on the facts loaded by the million: days arrive in order, windows are ranges of
-- days, and a load pays almost nothing for them.
drop index target_day_day;
drop index term_day_day;
create index target_day_day on target_day using brin (day);
create index term_day_day on term_day using brin (day);
