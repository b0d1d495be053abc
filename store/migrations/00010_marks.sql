-- +goose Up
-- Names for how a table stood, to return to.
create table mark (
  table_id bigint not null references stewarded_table on delete cascade,
  name text not null,
  revision bigint not null references revision,
  made_at timestamptz not null default now(),
  primary key (table_id, name)
);

-- +goose Down
drop table mark;
