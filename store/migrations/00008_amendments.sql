-- +goose Up
-- Which entry took an entry's place: that of a later delivery, or an amendment of the journal.
alter table entry add column superseded_by int;
update entry e set superseded_by = (select min(number) from entry f where f.table_id = e.table_id and f.kind = 'refresh' and f.number > e.number)
where state = 'superseded';

-- +goose Down
alter table entry drop column superseded_by;
