-- +goose Up
create table book (
  id         bigint generated always as identity primary key,
  name       text not null unique check (name <> ''),
  created_at timestamptz not null default now()
);

-- A file that was received and not yet brought in. Its bytes are in the data directory.
create table upload (
  id          bigint generated always as identity primary key,
  book_id     bigint not null references book,
  file_name   text not null,
  path        text not null,
  bytes       bigint not null,
  received_at timestamptz not null default now()
);

-- An immutable part of a table: the codes, view, dictionary or selection of columns.
-- docs/storage.md describes the bytes of a segment.
create table part (
  id    bigint generated always as identity primary key,
  kind  text not null check (kind in ('numbers', 'dictionary')),
  items bigint not null
);
create table segment (
  part_id bigint not null references part on delete cascade,
  number  int not null,
  body    bytea not null,
  primary key (part_id, number)
);
alter table segment alter column body set storage external;

create table stewarded_table (
  id           bigint generated always as identity primary key,
  book_id      bigint not null references book,
  name         text not null check (name <> ''),
  consolidated boolean not null,
  head         bigint,
  created_at   timestamptz not null default now(),
  unique (book_id, name)
);

create table revision (
  id             bigint generated always as identity primary key,
  table_id       bigint not null references stewarded_table,
  rows           bigint not null,
  base_rows      bigint not null,
  selection_part bigint references part
);
alter table stewarded_table add foreign key (head) references revision deferrable initially deferred;

create table revision_column (
  revision_id     bigint not null references revision,
  position        int not null,
  name            text not null,
  reading         text not null,
  codes_part      bigint not null references part,
  view_part       bigint references part,
  dictionary_part bigint not null references part,
  primary key (revision_id, position)
);
create table revision_origin (
  revision_id bigint not null references revision,
  position    int not null,
  source      text not null,
  rows_part   bigint references part,
  primary key (revision_id, position)
);

-- The journal. Entry 0 is the opening: how the table came to be.
create table entry (
  table_id    bigint not null references stewarded_table,
  number      int not null,
  kind        text not null,
  params      jsonb not null,
  words       text not null,
  effect      jsonb not null,
  notes       jsonb not null default '[]',
  state       text not null check (state in ('posted', 'reversed')),
  before      bigint references revision,
  after       bigint not null references revision,
  aside_part  bigint references part,
  posted_at   timestamptz not null default now(),
  reversed_at timestamptz,
  primary key (table_id, number)
);

create table crosswalk (
  id      bigint generated always as identity primary key,
  book_id bigint not null references book,
  name    text not null,
  unique (book_id, name)
);

-- Decisions are only ever added; one that no longer holds is withdrawn.
create table decision (
  id           bigint generated always as identity primary key,
  crosswalk_id bigint not null references crosswalk,
  verdict      text not null check (verdict in ('same', 'apart')),
  value        text not null,
  other        text not null,
  why          text not null default '',
  table_id     bigint references stewarded_table,
  entry        int,
  decided_at   timestamptz not null default now(),
  withdrawn_at timestamptz
);
create index decision_standing on decision (crosswalk_id, verdict) where withdrawn_at is null;

-- Answers to requests that must not be done twice, by idempotency key.
create table request (
  key     text primary key,
  answer  jsonb not null,
  done_at timestamptz not null default now()
);

-- What the interface shows of a job beside what the queue itself knows.
create table progress (
  job_id     bigint primary key,
  book_id    bigint not null references book,
  title      text not null,
  unit       text not null,
  done       bigint not null default 0,
  total      bigint not null default 0,
  rows       bigint not null default 0,
  table_id   bigint references stewarded_table,
  problem    jsonb,
  started_at timestamptz not null default now()
);
