-- +goose Up
-- What a tidy entry does is a list of steps, in order, instead of a switch for each.
update entry set params = (params - 'trim' - 'collapse' - 'case') || jsonb_build_object('steps',
  (case when params ->> 'trim' = 'true' then '[{"op":"trim"}]'::jsonb else '[]' end)
  || (case when params ->> 'collapse' = 'true' then '[{"op":"collapse"}]'::jsonb else '[]' end)
  || (case when coalesce(params ->> 'case', '') <> '' then jsonb_build_array(jsonb_build_object('op', params ->> 'case')) else '[]' end))
where kind = 'tidy' and not params ? 'steps';

-- +goose Down
update entry set params = (params - 'steps') || jsonb_build_object('trim', params -> 'steps' @> '[{"op":"trim"}]', 'collapse', params -> 'steps' @> '[{"op":"collapse"}]')
where kind = 'tidy';
