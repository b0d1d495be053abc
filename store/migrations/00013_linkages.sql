-- +goose Up
-- A linkage of tables of a book, and what was decided of pairs of their records, which are known by their keys (linkage.Key).
create table linkage (
  id      bigint generated always as identity primary key,
  book_id bigint not null references book on delete cascade,
  name    text not null,
  tables  bigint[] not null,
  made_at timestamptz not null default now(),
  unique (book_id, name)
);

-- Decisions are only ever added; one that no longer holds is withdrawn.
create table linkage_decision (
  id           bigint generated always as identity primary key,
  linkage_id   bigint not null references linkage on delete cascade,
  a            text not null,
  b            text not null,
  same         boolean not null,
  decided_at   timestamptz not null default now(),
  withdrawn_at timestamptz
);
create unique index linkage_decision_standing on linkage_decision (linkage_id, a, b) where withdrawn_at is null;

-- +goose Down
drop table linkage_decision;
drop table linkage;
