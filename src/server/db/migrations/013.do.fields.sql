-- Lines of one harvest carry its id, in the place of a rule by group and text.
alter table line add column harvest text;

update line l set harvest = h.id
from (
  select account_id, sheet_id, group_key, lower(expression) as text,
    group_key || ':' || lower(expression) as id
  from line
  where expression is not null
  group by account_id, sheet_id, group_key, lower(expression)
  having count(*) > 1 and bool_or(action = 'create' and entity = 'target')) h
where l.account_id = h.account_id and l.sheet_id = h.sheet_id and l.group_key = h.group_key
  and lower(l.expression) = h.text;
