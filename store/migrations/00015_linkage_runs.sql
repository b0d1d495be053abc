-- +goose Up
-- A linkage that is too large to wait for: its plan, and what was compared, shard by shard. The key says of which revisions and in which way.
create table linkage_run (
  id         bigint generated always as identity primary key,
  linkage_id bigint not null references linkage on delete cascade,
  key        text not null,
  spec       jsonb not null,
  crosswalks jsonb not null,
  revisions  bigint[] not null,
  job_id     bigint not null,
  made_at    timestamptz not null default now(),
  unique (linkage_id, key)
);
create table linkage_part (
  run_id bigint not null references linkage_run on delete cascade,
  shard  int not null,
  worker text,
  beat   timestamptz,
  body   bytea,
  primary key (run_id, shard)
);
alter table linkage_part alter column body set storage external;

-- +goose Down
drop table linkage_part;
drop table linkage_run;
