-- The share of spend that is set aside to learn about what is quiet or rests; 0: none.
alter table account add column testing_share double precision not null default 0 check (testing_share between 0 and 0.5);
-- Of a bid that is tried to know: what was believed before, and what was expected.
alter table line add column test jsonb;
create index line_test on line (account_id, sheet_id) where test is not null;
