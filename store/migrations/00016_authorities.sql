-- +goose Up
-- A column of a table that is asked of an authority: a table of the book used as a register, or a service at an address.
create table asking (
  id          bigint generated always as identity primary key,
  book_id     bigint not null references book on delete cascade,
  table_id    bigint not null references stewarded_table on delete cascade,
  register_id bigint references stewarded_table on delete cascade,
  address     text not null default '',
  authority   text not null,
  question    jsonb not null,
  made_at     timestamptz not null default now(),
  check ((register_id is null) <> (address = ''))
);

-- What was decided of a combination of values, by somebody; the last one that is not withdrawn stands.
create table asking_decision (
  id           bigint generated always as identity primary key,
  asking_id    bigint not null references asking on delete cascade,
  combination  text[] not null,
  state        text not null,
  identifier   text not null default '',
  standard     text not null default '',
  note         text not null default '',
  reviewer     text not null default '',
  decided_at   timestamptz not null default now(),
  withdrawn_at timestamptz
);
create unique index asking_decision_standing on asking_decision (asking_id, combination) where withdrawn_at is null;

-- What a service offered for a name, and its facts of an entry, with the time.
create table asking_offer (
  asking_id bigint not null references asking on delete cascade,
  name      text not null,
  offered   jsonb not null,
  asked_at  timestamptz not null default now(),
  primary key (asking_id, name)
);
create table asking_fact (
  asking_id  bigint not null references asking on delete cascade,
  identifier text not null,
  facts      jsonb not null,
  asked_at   timestamptz not null default now(),
  primary key (asking_id, identifier)
);

-- +goose Down
drop table asking_fact;
drop table asking_offer;
drop table asking_decision;
drop table asking;
