-- +goose Up
-- Two tables proved against each other, how they are settled, and what was decided of their items, which are known by their keys (reconcile.Keys).
create table reconciliation (
  id      bigint generated always as identity primary key,
  book_id bigint not null references book on delete cascade,
  name    text not null,
  ours    bigint not null references stewarded_table on delete cascade,
  theirs  bigint not null references stewarded_table on delete cascade,
  spec    jsonb not null default '{}',
  made_at timestamptz not null default now(),
  unique (book_id, name)
);
create table reconciliation_decision (
  id                bigint generated always as identity primary key,
  reconciliation_id bigint not null references reconciliation on delete cascade,
  kind              text not null,
  ours              text[] not null,
  theirs            text[] not null,
  note              text not null default '',
  reviewer          text not null default '',
  decided_at        timestamptz not null default now(),
  withdrawn_at      timestamptz
);
create index on reconciliation_decision (reconciliation_id) where withdrawn_at is null;

-- Each closing, with the statement as it stood, and its reopening.
create table reconciliation_closing (
  id                bigint generated always as identity primary key,
  reconciliation_id bigint not null references reconciliation on delete cascade,
  statement         jsonb not null,
  revisions         bigint[] not null,
  signed            text not null default '',
  note              text not null default '',
  closed_at         timestamptz not null default now(),
  reopened_at       timestamptz
);

-- +goose Down
drop table reconciliation_closing;
drop table reconciliation_decision;
drop table reconciliation;
