-- What came of a batch is written by its lines; without this each batch read all lines ever sent.
create index line_batch on line (account_id, batch_id) where batch_id is not null;

-- An edit names the version of the line that it saw: of two hands at once the second is told.
alter table line add column version integer not null default 1;

-- Lines that were added while their sheet was being sent stayed open on it, out of reach of everything. They come back
-- onto the open sheet.
insert into sheet (account_id, state, created_at)
select distinct l.account_id, 'open', now()
from line l join sheet s on s.account_id = l.account_id and s.sheet_id = l.sheet_id
where s.state = 'sent' and l.state = 'open'
  and not exists (select 1 from sheet o where o.account_id = l.account_id and o.state = 'open');
update line l set sheet_id = o.sheet_id
from sheet s, sheet o
where s.account_id = l.account_id and s.sheet_id = l.sheet_id and s.state = 'sent' and l.state = 'open'
  and o.account_id = l.account_id and o.state = 'open';
