-- +goose Up
-- Rules that a table is to hold.
create table watch (
  id       bigint generated always as identity primary key,
  table_id bigint not null references stewarded_table on delete cascade,
  rule     jsonb not null,
  made_at  timestamptz not null default now(),
  unique (table_id, rule)
);

-- +goose Down
drop table watch;
