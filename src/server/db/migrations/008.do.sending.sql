-- What came of a batch is written by its lines; without this each batch read all lines ever sent.
create index line_batch on line (account_id, batch_id) where batch_id is not null;
