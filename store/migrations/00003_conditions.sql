-- +goose Up
-- Conditions kept under a name, so that they need not be put together again.
create table kept_condition (
  book_id bigint not null references book,
  name    text not null check (name <> ''),
  body    jsonb not null,
  primary key (book_id, name)
);
