-- What a campaign bids at each hour of the week, as the marketplace writes it; null for none.
alter table campaign add column schedule text;
