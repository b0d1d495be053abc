-- +goose Up
-- A file may lie on the server's own disk: own is false then, and it is never removed.
alter table upload add own boolean not null default true;

-- How a table was read is kept with the format it has since then.
update entry set params = jsonb_build_object('files', jsonb_build_array(replace(words, 'Brought in ', '')), 'how', jsonb_build_object('format', 'delimited', 'text',
	(params - 'header') || jsonb_build_object('names', case when (params ->> 'header')::boolean then 1 else 0 end)))
where kind = 'bring-in' and number = 0 and params ? 'header';
