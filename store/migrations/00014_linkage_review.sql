-- +goose Up
-- How a linkage is done, each time somebody changed it; the last one holds.
create table linkage_spec (
  id         bigint generated always as identity primary key,
  linkage_id bigint not null references linkage on delete cascade,
  spec       jsonb not null,
  made_at    timestamptz not null default now()
);
create index on linkage_spec (linkage_id, id);

-- A pair may be left undecided (same is null), with a word of why and who said so.
alter table linkage_decision alter column same drop not null;
alter table linkage_decision add column note text not null default '', add column reviewer text not null default '';

-- Who looks at a pair just now, so that two do not look at the same.
create table linkage_turn (
  linkage_id bigint not null references linkage on delete cascade,
  a          text not null,
  b          text not null,
  reviewer   text not null,
  until      timestamptz not null,
  primary key (linkage_id, a, b)
);

-- What was found of the pairs of a spot check.
create table linkage_spot (
  linkage_id bigint not null references linkage on delete cascade,
  a          text not null,
  b          text not null,
  same       boolean not null,
  reviewer   text not null default '',
  found_at   timestamptz not null default now(),
  primary key (linkage_id, a, b)
);

-- The lasting identifier that each record stands under, by its key, and what became of identifiers.
create table linkage_golden (
  linkage_id bigint not null references linkage on delete cascade,
  record_key text not null,
  golden     bigint not null,
  primary key (linkage_id, record_key)
);
create table linkage_moved (
  id         bigint generated always as identity primary key,
  linkage_id bigint not null references linkage on delete cascade,
  old        bigint not null,
  new        bigint not null,
  merged     boolean not null,
  moved_at   timestamptz not null default now()
);
create index on linkage_moved (linkage_id, old);
alter table linkage add column next_golden bigint not null default 1;

-- Values of golden records picked by hand, which hold while the values they were picked from stay as they are.
create table linkage_pick (
  linkage_id bigint not null references linkage on delete cascade,
  golden     bigint not null,
  attribute  text not null,
  value      text not null,
  picked_of  text not null,
  reviewer   text not null default '',
  picked_at  timestamptz not null default now(),
  primary key (linkage_id, golden, attribute)
);

-- +goose Down
drop table linkage_pick;
alter table linkage drop column next_golden;
drop table linkage_moved;
drop table linkage_golden;
drop table linkage_spot;
drop table linkage_turn;
alter table linkage_decision drop column reviewer, drop column note;
delete from linkage_decision where same is null;
alter table linkage_decision alter column same set not null;
drop table linkage_spec;
