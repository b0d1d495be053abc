-- +goose Up
-- Why an entry was posted, in the steward's own words.
alter table entry add column reason text not null default '';

-- +goose Down
alter table entry drop column reason;
