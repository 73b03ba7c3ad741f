-- How boldly a scope moves, and whether its theta may rise above 1.
alter table goal add column stance text not null default 'even' check (stance in ('careful', 'even', 'bold'));
alter table goal add column above_one boolean not null default false;

-- What a round of steering rested on.
alter table theta add column expected_acos double precision;
alter table theta add column in_force double precision;
alter table theta add column outcome text not null default 'steered';

-- What the account taught about itself, as of a day: responses, drift, and the grades of the model out of sample.
create table model (
  account_id bigint not null references account,
  day date not null,
  body jsonb not null,
  primary key (account_id, day)
);

-- How much a word moves the orders per click of the terms that hold it, natural logs.
create table word_effect (
  account_id bigint not null references account,
  word text not null,
  beta double precision not null,
  primary key (account_id, word)
);

-- Stock as it was fetched, by day.
create table product_stock (
  account_id bigint not null,
  sku text not null,
  day date not null,
  stock integer not null,
  primary key (account_id, sku, day)
);

-- What a sent line was said to do, against what was seen on whole settled weeks; change per week, money in micros.
create table forecast (
  account_id bigint not null,
  line_id bigint not null,
  kind text not null,
  from_day date not null,
  to_day date not null,
  weeks double precision not null,
  said jsonb not null,
  seen jsonb not null,
  -- Standard deviation of seen - said, as it was believed: belief and chance together.
  spread jsonb not null,
  inside boolean not null,
  scored_on date not null,
  primary key (account_id, line_id)
);
