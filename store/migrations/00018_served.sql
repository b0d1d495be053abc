-- +goose Up
-- The table answers others as an authority.
alter table stewarded_table add column served boolean not null default false;

-- +goose Down
alter table stewarded_table drop column served;
