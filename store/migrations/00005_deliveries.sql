-- +goose Up
-- A new delivery of a table's source, read and stored but not yet posted. Its revision is
-- the source as it was read; the journal is replayed on it when it is looked at and posted.
create table delivery (
  table_id    bigint primary key references stewarded_table,
  revision_id bigint not null references revision,
  params      jsonb not null,
  notes       jsonb not null,
  received_at timestamptz not null default now()
);

-- Entries that a later delivery took back and did again are superseded by its entry; an
-- entry done again says which it repeats.
alter table entry drop constraint entry_state_check;
alter table entry add constraint entry_state_check check (state in ('posted', 'reversed', 'superseded'));
alter table entry add column repeats int;

-- +goose Down
update entry set state = 'reversed' where state = 'superseded';
alter table entry drop column repeats;
alter table entry drop constraint entry_state_check;
alter table entry add constraint entry_state_check check (state in ('posted', 'reversed'));
drop table delivery;
