-- +goose Up
-- What a platform does in a line or two stands beside its name, so that the shelf is
-- looked through without reading price lists.
alter table platforms add column about text not null default '';
create index platforms_shelf on platforms (workspace_id, lower(name), key) where deleted_at is null;
create index editions_newest on editions (platform_id, observed_on desc);

-- +goose Down
select 1; -- migrations go forward only
