-- +goose Up
-- What is said of a standard value beside its variants, which are decisions.
create table standard_value (
  crosswalk_id bigint not null references crosswalk on delete cascade,
  value        text not null,
  code         text not null default '',
  note         text not null default '',
  broader      text not null default '',
  changed_at   timestamptz not null default now(),
  primary key (crosswalk_id, value)
);

-- A closed crosswalk lists all right values: spellings are tied to one of them or to none.
alter table crosswalk add column closed boolean not null default false;

-- Short forms of a book beside those that are shipped.
create table short_form (
  book_id bigint not null references book on delete cascade,
  short   text not null,
  long    text not null,
  primary key (book_id, short)
);

-- +goose Down
drop table short_form;
alter table crosswalk drop column closed;
drop table standard_value;
