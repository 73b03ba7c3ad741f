-- What a trial is compared with: campaigns that stand still, or the same hours of other weekdays of its own campaigns.
alter table trial add column control text not null default 'campaigns' check (control in ('campaigns', 'weekdays'));
