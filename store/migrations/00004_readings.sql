-- +goose Up
-- Until now every column said "text" and its reading was worked out; a column says nothing
-- until somebody does.
update revision_column set reading = '' where reading = 'text';

-- +goose Down
update revision_column set reading = 'text' where reading = '';
