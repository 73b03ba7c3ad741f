-- Conditions of one's own on placements: when a placement's figure stands so against another's, its modifier moves. In the
-- order in which they are asked; what a condition is, core/placements/conditions says.
create table placement_condition (
  account_id bigint not null references account,
  rank integer not null,
  body jsonb not null,
  primary key (account_id, rank)
);
