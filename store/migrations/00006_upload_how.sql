-- +goose Up
-- How a received file is read, where that is known beforehand: what was copied out of a
-- database is text of one known form.
alter table upload add column how jsonb;

-- +goose Down
alter table upload drop column how;
